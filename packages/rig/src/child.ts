/** Child processes that write to a log file, leave a pid file, and end when told. */
import { type ChildProcess, type SpawnOptions, spawn } from "node:child_process";
import { existsSync, openSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import type { RunAs } from "./needs.ts";

export interface ChildOptions {
  readonly name: string;
  readonly command: string;
  readonly args: readonly string[];
  readonly logFile: string;
  readonly pidFile: string;
  readonly runAs?: RunAs | null;
  readonly env?: Record<string, string>;
  readonly stopSignal?: NodeJS.Signals;
}

export interface Child {
  readonly name: string;
  readonly pid: number;
  /** Resolves when it has ended, with what it ended with. */
  readonly ended: Promise<number | NodeJS.Signals>;
  readonly hasEnded: () => boolean;
  stop(): Promise<void>;
  kill(signal: NodeJS.Signals): void;
}

const STOP_WITHIN_MS = 8_000;

export function startChild(options: ChildOptions): Child {
  const { name, command, args, logFile, pidFile, runAs, env, stopSignal = "SIGTERM" } = options;
  const log = openSync(logFile, "a");
  const spawnOptions: SpawnOptions = {
    cwd: "/",
    stdio: ["ignore", log, log],
    // Its own process group: Ctrl-C in the terminal reaches only the demo, which stops the rest in order.
    detached: true,
    env: { ...process.env, ...env },
    ...(runAs ?? {}),
  };
  const child: ChildProcess = spawn(command, args, spawnOptions);
  let over = false;
  const ended = new Promise<number | NodeJS.Signals>((resolve) => {
    child.once("error", () => resolve(127));
    child.once("exit", (code, signal) => resolve(code ?? signal ?? 1));
  }).finally(() => {
    over = true;
    rmSync(pidFile, { force: true });
  });
  writeFileSync(pidFile, String(child.pid ?? 0));
  return {
    name,
    pid: child.pid ?? 0,
    ended,
    hasEnded: () => over,
    kill: (signal) => void child.kill(signal),
    async stop() {
      if (over) return;
      child.kill(stopSignal);
      const timer = setTimeout(() => child.kill("SIGKILL"), STOP_WITHIN_MS);
      await ended;
      clearTimeout(timer);
    },
  };
}

/**
 * Ends what an earlier run, killed before it could clean up, has left running.
 *
 * @param mark a text that only this process has on its command line: pids are used again by others
 */
export async function endLeftover(pidFile: string, mark: string, signal: NodeJS.Signals): Promise<void> {
  if (!existsSync(pidFile)) return;
  const pid = Number(readFileSync(pidFile, "utf8").split("\n")[0]);
  const alive = () => isRunning(pidFile, mark);
  if (alive()) process.kill(pid, signal);
  for (let waited = 0; alive(); waited += 50) {
    if (waited === 5_000) process.kill(pid, "SIGKILL");
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  rmSync(pidFile, { force: true });
}

/** Whether the process of this pid file runs, and is the one with this mark. */
export function isRunning(pidFile: string, mark: string): boolean {
  if (!existsSync(pidFile)) return false;
  const pid = Number(readFileSync(pidFile, "utf8").split("\n")[0]);
  return pid > 0 && commandLine(pid).includes(mark);
}

/** Empty for a process that is gone, or a zombie. */
function commandLine(pid: number): string {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, "utf8").replaceAll("\0", " ");
  } catch {
    return "";
  }
}

/** The last lines of a log, for an error message. */
export function logTail(logFile: string, lines = 8): string {
  if (!existsSync(logFile)) return "";
  return readFileSync(logFile, "utf8").trimEnd().split("\n").slice(-lines).join("\n");
}
