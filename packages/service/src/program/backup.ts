/** `backup`: the whole database in one file, while the service runs. */
import { existsSync } from "node:fs";
import { open, rename, rm, stat } from "node:fs/promises";
import path from "node:path";
import { runTool } from "./postgres-tool.ts";

/**
 * Writes a backup in PostgreSQL's custom format: `pg_restore` reads it as well. The file appears under its name once it is whole.
 *
 * @returns lines for people
 * @throws Error when the file exists, or cannot be written whole; nothing is left then
 */
export async function backup(databaseUrl: string, file: string): Promise<string[]> {
  if (existsSync(file)) throw new Error(`${file} exists already. Name a new file.`);
  const part = `${file}.part`;
  try {
    // Only the owner of a file with passwords' hashes in it may read it: made before anything is written to it.
    await (await open(part, "wx", 0o600)).close();
    await runTool("pg_dump", databaseUrl, ["--format=custom", "--no-owner", "--no-acl", `--file=${part}`]);
    await synced(part);
    await rename(part, file);
    await synced(path.dirname(path.resolve(file)));
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "EEXIST")
      throw new Error(
        `${part} exists. Another backup is being written there, or one was interrupted: delete the file.`,
      );
    await rm(part, { force: true });
    throw error;
  }
  const { size } = await stat(file);
  return [
    `The backup is in ${file} (${megabytes(size)} MB).`,
    "Keep BOLD_RELAY_SECRETS_KEY with it: without that key, secrets of signatures and links cannot be read.",
  ];
}

/** On the disk, and not only on its way there. */
async function synced(place: string): Promise<void> {
  const handle = await open(place, "r");
  await handle.sync().finally(() => handle.close());
}

function megabytes(bytes: number): string {
  return (bytes / 1e6).toFixed(1);
}
