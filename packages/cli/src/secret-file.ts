/** What is shown only once, in a file that only its owner can read. */
import { chmod, writeFile } from "node:fs/promises";
import { Option } from "commander";

/** `--out <file>` of every verb that makes a key, a password or a secret. */
export function outOption(what: string): Option {
  return new Option("--out <file>", `write ${what} to this file, readable by you only, and print nothing of it`);
}

/** Mode 0600 also where the file was there before with another. @throws Error of the file system */
export async function writeSecret(file: string, text: string): Promise<void> {
  await writeFile(file, "", { mode: 0o600, flag: "a" });
  await chmod(file, 0o600);
  await writeFile(file, text);
}
