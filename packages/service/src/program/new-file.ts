/** A file that appears under its name once it is whole, and that only its owner may read. */
import { existsSync } from "node:fs";
import { open, rename, rm, stat } from "node:fs/promises";
import path from "node:path";

/**
 * @param write writes to the file that it is given, which exists and is empty
 * @returns how many bytes it has
 * @throws Error when the file exists, or cannot be written whole; nothing is left then
 */
export async function newFile(file: string, write: (part: string) => Promise<unknown>): Promise<number> {
  if (existsSync(file)) throw new Error(`${file} exists already. Name a new file.`);
  const part = `${file}.part`;
  try {
    // Made before anything is written to it, so that nobody else can read even the beginning.
    await (await open(part, "wx", 0o600)).close();
    await write(part);
    await synced(part);
    await rename(part, file);
    await synced(path.dirname(path.resolve(file)));
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "EEXIST")
      throw new Error(`${part} exists. Something else is being written there, or was interrupted: delete the file.`, {
        cause: error,
      });
    await rm(part, { force: true });
    throw error;
  }
  return (await stat(file)).size;
}

/** On the disk, and not only on its way there. */
async function synced(place: string): Promise<void> {
  const handle = await open(place, "r");
  await handle.sync().finally(() => handle.close());
}
