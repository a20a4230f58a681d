/** `npm run demo`: the whole thing with demo data and stand-ins, until Ctrl-C; `--once` runs an example and exits. */
import { rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { isRunning } from "../child.ts";
import { openDemoStack } from "./demo-stack.ts";
import { runExample } from "./example.ts";
import { progress, welcome } from "./screen.ts";

const project = process.cwd();

async function main(words: readonly string[]): Promise<number> {
  const unknown = words.filter((word) => !["--once", "--new-secrets"].includes(word));
  if (unknown.length > 0) {
    process.stderr.write(
      `Unknown: ${unknown.join(" ")}. The demo takes --once (run an example and exit) and --new-secrets.\n`,
    );
    return 2;
  }
  const once = words.includes("--once");
  const folder = path.join(project, ".demo", ...(once ? ["once"] : []));
  const pidFile = path.join(folder, "demo.pid");
  if (isRunning(pidFile, "demo/main.js")) {
    process.stderr.write("The demo runs here already. Stop it with Ctrl-C in its terminal, or use its console.\n");
    return 1;
  }
  const interrupted = new Promise<number>((resolve) => {
    process.on("SIGINT", () => resolve(130));
    process.on("SIGTERM", () => resolve(143));
  });
  const say = progress();
  const stack = await openDemoStack({ folder, newSecrets: words.includes("--new-secrets"), fresh: once, say });
  try {
    writeFileSync(pidFile, String(process.pid));
    if (once) {
      await runExample(stack);
      process.stdout.write("\nThe example ran as it should. Stopping everything.\n");
      return 0;
    }
    say("Ready");
    process.stdout.write(welcome(stack, project));
    const why = await Promise.race([interrupted, stack.broke]);
    if (typeof why === "string") throw new Error(`${why}. Its log is in ${folder}.`);
    process.stdout.write("\nStopping everything.\n");
    return 0;
  } finally {
    await stack.stop();
    rmSync(once ? folder : pidFile, { recursive: true, force: true });
  }
}

main(process.argv.slice(2)).then(
  (code) => process.exit(code),
  (error: unknown) => {
    process.stderr.write(`\nThe demo stopped: ${error instanceof Error ? error.message : String(error)}\n`);
    process.exit(1);
  },
);
