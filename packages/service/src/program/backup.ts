/** `backup`: the whole database in one file, while the service runs. */
import { newFile } from "./new-file.ts";
import { runTool } from "./postgres-tool.ts";

/**
 * Writes a backup in PostgreSQL's custom format: `pg_restore` reads it as well. The file appears under its name once it is whole.
 *
 * @returns lines for people
 * @throws Error when the file exists, or cannot be written whole; nothing is left then
 */
export async function backup(databaseUrl: string, file: string): Promise<string[]> {
  const size = await newFile(file, (part) =>
    runTool("pg_dump", databaseUrl, ["--format=custom", "--no-owner", "--no-acl", `--file=${part}`]),
  );
  return [
    `The backup is in ${file} (${megabytes(size)} MB).`,
    "Keep BOLD_RELAY_SECRETS_KEY with it: without that key, secrets of signatures and links cannot be read.",
  ];
}

function megabytes(bytes: number): string {
  return (bytes / 1e6).toFixed(1);
}
