/** Builds the console while the servers start: the only part of a clone that must be built to run. */
import { execFile } from "node:child_process";
import { fileURLToPath } from "node:url";
import { promisify } from "node:util";

const SCRIPT = fileURLToPath(new URL("../../../../scripts/build-console.sh", import.meta.url));

/** Does nothing where nothing has changed since the last build. @throws Error with the end of what the build said */
export async function buildConsole(say: (line: string) => void): Promise<void> {
  try {
    const { stdout } = await promisify(execFile)("sh", [SCRIPT], { encoding: "utf8" });
    if (stdout.includes("Building")) say("The console is built");
  } catch (error) {
    const { stdout = "", stderr = "" } = error as { stdout?: string; stderr?: string };
    throw new Error(`The console cannot be built:\n${`${stdout}${stderr}`.trim().split("\n").slice(-12).join("\n")}`);
  }
}
