/** `npm run demo`: the whole thing with demo data and stand-ins, until Ctrl-C. `USAGE` has its options. */
import { rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { parseArgs } from "node:util";
import { isRunning } from "../child.ts";
import { openDemoStack } from "./demo-stack.ts";
import { runExample } from "./example.ts";
import { missingWords, progress, welcome } from "./screen.ts";

const project = process.cwd();

async function main(words: readonly string[]): Promise<number> {
  const options = optionsOf(words);
  if (typeof options === "string") {
    process.stderr.write(`${options}\n`);
    return 2;
  }
  const { once, port } = options;
  const folder = path.join(project, ".demo", ...(once ? ["once"] : []));
  const pidFile = path.join(folder, "demo.pid");
  if (isRunning(pidFile, "demo/main.ts")) {
    process.stderr.write("The demo runs here already. Stop it with Ctrl-C in its terminal, or use its console.\n");
    return 1;
  }
  const interrupted = new Promise<number>((resolve) => {
    process.on("SIGINT", () => resolve(130));
    process.on("SIGTERM", () => resolve(143));
  });
  const say = progress();
  const stack = await openDemoStack({
    folder,
    newSecrets: options.newSecrets,
    fresh: once || options.fresh,
    temporary: once,
    ...(port === undefined ? {} : { port }),
    say,
  });
  try {
    writeFileSync(pidFile, String(process.pid));
    if (once) {
      if (stack.missing.length > 0) throw new Error(missingWords(stack.missing));
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

interface Options {
  readonly once: boolean;
  readonly fresh: boolean;
  readonly newSecrets: boolean;
  readonly port: number | undefined;
}

const USAGE = [
  "Options of npm run demo --",
  "  --once           run a full example and exit",
  "  --fresh          delete what earlier starts have left, and begin anew",
  "  --new-secrets    show a new password and new keys",
  "  --port N         where the console and the API are, 1024 to 65535; kept for the next start",
].join("\n");

/** @returns a text for the terminal where the words are wrong */
function optionsOf(words: readonly string[]): Options | string {
  try {
    const { values } = parseArgs({
      args: [...words],
      options: {
        once: { type: "boolean", default: false },
        fresh: { type: "boolean", default: false },
        "new-secrets": { type: "boolean", default: false },
        port: { type: "string" },
      },
    });
    const port = values.port === undefined ? undefined : Number(values.port);
    if (port !== undefined && !(Number.isInteger(port) && port >= 1_024 && port <= 65_535))
      return `“${values.port}” is not a port.\n\n${USAGE}`;
    return { once: values.once, fresh: values.fresh, newSecrets: values["new-secrets"], port };
  } catch (error) {
    return `${error instanceof Error ? error.message : String(error)}\n\n${USAGE}`;
  }
}

main(process.argv.slice(2)).then(
  (code) => process.exit(code),
  (error: unknown) => {
    process.stderr.write(`\nThe demo stopped: ${error instanceof Error ? error.message : String(error)}\n`);
    process.exit(1);
  },
);
