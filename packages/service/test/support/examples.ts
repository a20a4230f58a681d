/** Runs the programs of `examples/` as somebody would who has copied one: a process, its settings in the environment. */
import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";

const EXAMPLES = fileURLToPath(new URL("../../../../examples/", import.meta.url));

/** Debian's, which has the packages that the examples need; another one may stand before it on the path. */
const PYTHON = "/usr/bin/python3";

/** The command that runs an example; what is written in C is compiled first. */
function commandOf(example: string): [string, ...string[]] {
  const file = path.join(EXAMPLES, example);
  switch (path.extname(example)) {
    case ".py":
      return [PYTHON, "-u", file];
    case ".mjs":
      return [process.execPath, file];
    case ".c":
      return [compiled(file)];
    default:
      return ["sh", file];
  }
}

const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-examples-"));
process.once("exit", () => rmSync(folder, { recursive: true, force: true }));

function compiled(file: string): string {
  const program = path.join(folder, path.basename(file, ".c"));
  execFileSync("gcc", ["-Wall", "-Werror", "-o", program, file, "-lmosquitto", "-lcjson"]);
  return program;
}

export interface RunningExample {
  /** Presses the device's own button. */
  press(): void;
  /** As when the power is cut: nothing of it has a chance to say good-bye. */
  cutPower(): Promise<void>;
  /** What it printed so far. */
  readonly output: () => string;
}

/** Starts an example that stays: a device, a sheet. */
export function startExample(example: string, settings: Readonly<Record<string, string>>): RunningExample {
  const [command, ...args] = commandOf(example);
  // A group of its own: what a shell script starts loses its power with it.
  const child = spawn(command, args, { env: { ...process.env, ...settings }, detached: true, stdio: "pipe" });
  let output = "";
  for (const stream of [child.stdout, child.stderr]) stream.on("data", (piece) => (output += String(piece)));
  return {
    press: () => void child.kill(example.endsWith(".mjs") ? "SIGUSR2" : "SIGUSR1"),
    async cutPower() {
      if (child.exitCode !== null || child.signalCode !== null) return;
      const ended = once(child, "exit");
      process.kill(-(child.pid ?? 0), "SIGKILL");
      await ended;
    },
    output: () => output,
  };
}

/**
 * Runs an example that ends by itself.
 *
 * @returns what it printed
 * @throws Error with all that it printed when it does not end with 0
 */
export async function runExample(example: string, settings: Readonly<Record<string, string>>): Promise<string> {
  const [command, ...args] = commandOf(example);
  const child: ChildProcess = spawn(command, args, { env: { ...process.env, ...settings }, stdio: "pipe" });
  let output = "";
  for (const stream of [child.stdout, child.stderr]) stream?.on("data", (piece) => (output += String(piece)));
  const [code] = await once(child, "close");
  if (code !== 0) throw new Error(`${example} ended with ${code}:\n${output}`);
  return output;
}
