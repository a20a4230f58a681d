/** `node ensure.js postgresql mosquitto …`: installs Debian packages that are missing, or says what to run. */
import { ensurePackages, type PackageName } from "./needs.ts";

try {
  ensurePackages(process.argv.slice(2) as PackageName[], (line) => process.stdout.write(`${line}\n`));
} catch (error) {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
}
