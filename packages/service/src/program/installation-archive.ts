/**
 * The archive of `export` and `import`: a gzipped tar (POSIX.1-2001) with one YAML file for each description, laid out like the folder of
 * `bold-relay save`, and the members. It holds no secrets.
 */
import { createReadStream, createWriteStream } from "node:fs";
import { pipeline } from "node:stream/promises";
import { createGunzip, createGzip } from "node:zlib";
import { extract, type Headers, pack } from "tar-stream";
import { parse, stringify } from "yaml";
import { plainEntries } from "./plain-entries.ts";

/** Whatever an archive claims to hold: more than this is not read. */
const MOST_FILES = 20_000;
const MOST_FILE_BYTES = 10_485_760;
const MOST_BYTES = 524_288_000;
/** Of one file and of all together: lines, commas, dashes and brackets, each of which may begin a value. A value takes about 15 µs and 2 kB to read. */
const MOST_VALUES = 500_000;
const MOST_VALUES_OF_ALL = 2_000_000;
/** How many brackets may stand open at once. */
const MOST_DEPTH = 50;

/** What an installation is described by. */
const FOLDERS = ["profiles", "sites", "inlets", "notifications"] as const;
export type Folder = (typeof FOLDERS)[number];

/** The form of the archive: what reads it refuses another. */
export const FORMAT = 1;

export interface InstallationArchive {
  /** As they stand in the files; nothing about them is checked. */
  readonly descriptions: readonly { readonly folder: Folder; readonly file: string; readonly body: unknown }[];
  readonly members: unknown;
  readonly about: unknown;
}

/** @param file new; written to its end and to the disk, or this rejects */
export async function writeArchive(file: string, archive: InstallationArchive): Promise<void> {
  const tar = pack();
  const add = (name: string, body: unknown) => tar.entry({ name, mode: 0o600, mtime: new Date(0) }, stringify(body));
  add("installation.yaml", archive.about);
  for (const { folder, file: name, body } of archive.descriptions) add(`${folder}/${name}`, body);
  add("members.yaml", archive.members);
  tar.finalize();
  await pipeline(tar, createGzip(), createWriteStream(file, { mode: 0o600, flags: "r+" }));
}

/** @throws Error that says what is wrong with the archive, and where in it */
export async function readArchive(file: string): Promise<InstallationArchive> {
  const found = new Map<string, unknown>();
  let bytes = 0;
  let values = 0;
  const tar = extract();
  const unzipped = createGunzip();
  unzipped.on("data", (chunk: Buffer) => {
    bytes += chunk.length;
    if (bytes > MOST_BYTES) unzipped.destroy(new Error(`it holds more than ${MOST_BYTES / 1_048_576} MB`));
  });
  const read = (async () => {
    for await (const entry of tar) {
      const { name, type } = entry.header;
      if (type === "directory") entry.resume();
      else {
        requireExpected(entry.header, found);
        const text = await textOf(entry);
        values += valuesIn(name, text);
        if (values > MOST_VALUES_OF_ALL) throw new Error(`it holds more than ${MOST_VALUES_OF_ALL} values`);
        found.set(name, parsed(name, text));
      }
    }
  })();
  try {
    await Promise.all([pipeline(createReadStream(file), unzipped, plainEntries(), tar), read]);
  } catch (error) {
    const { code, message } = error as NodeJS.ErrnoException;
    const why =
      code === "ENOENT" ? "there is no such file" : code?.startsWith("Z_") ? "it is no gzipped archive" : message;
    throw new Error(`${file}: ${why}.`, { cause: error });
  }
  if (!found.has("installation.yaml")) throw new Error(`${file} is no export of an installation.`);
  const descriptions = [...found].flatMap(([name, body]) => {
    const folder = FOLDERS.find((one) => name.startsWith(`${one}/`));
    return folder ? [{ folder, file: name, body }] : [];
  });
  return { descriptions, members: found.get("members.yaml") ?? [], about: found.get("installation.yaml") };
}

const NAMES = /^(?:installation\.yaml|members\.yaml|(?:profiles|sites|inlets|notifications)\/[a-z0-9-]{1,40}\.ya?ml)$/;

/** @throws Error with what does not belong in an export, or is more than is read */
function requireExpected({ name, type, size = 0 }: Headers, found: ReadonlyMap<string, unknown>): void {
  if (type !== "file" || !NAMES.test(name)) throw new Error(`“${shown(name)}” does not belong in it`);
  if (size > MOST_FILE_BYTES) throw new Error(`${name} has ${size} bytes, and ${MOST_FILE_BYTES} are allowed`);
  if (found.size >= MOST_FILES) throw new Error(`it has more than ${MOST_FILES} files`);
  if (found.has(name)) throw new Error(`${name} stands in it twice`);
}

async function textOf(entry: AsyncIterable<Buffer | string>): Promise<string> {
  const chunks: Buffer[] = [];
  for await (const chunk of entry) chunks.push(Buffer.from(chunk));
  return Buffer.concat(chunks).toString("utf8");
}

/** How many values a file may hold. @throws Error where it may be more, or deeper, than is read */
function valuesIn(name: string, text: string): number {
  let [values, depth] = [0, 0];
  for (let at = 0; at < text.length; at += 1) {
    const character = text.charCodeAt(at);
    if (character === COMMA || character === LINE_FEED || isMark(text, at, character)) values += 1;
    else if (OPENING.has(character)) {
      depth += 1;
      // Also where brackets in texts hide how deep it is.
      values += 1;
    } else if (CLOSING.has(character)) depth = Math.max(0, depth - 1);
    if (depth > MOST_DEPTH) throw new Error(`${name} is nested more than ${MOST_DEPTH} deep`);
  }
  if (values > MOST_VALUES) throw new Error(`${name} may hold ${values} values, and ${MOST_VALUES} are read`);
  return values;
}

/** A dash or question mark that begins a value on the same line. */
function isMark(text: string, at: number, character: number): boolean {
  return (character === DASH || character === QUESTION) && text.charCodeAt(at + 1) === SPACE;
}

const DASH = "-".charCodeAt(0);
const QUESTION = "?".charCodeAt(0);
const SPACE = " ".charCodeAt(0);
const COMMA = ",".charCodeAt(0);
const LINE_FEED = "\n".charCodeAt(0);
const OPENING = new Set([..."[{"].map((one) => one.charCodeAt(0)));
const CLOSING = new Set([..."]}"].map((one) => one.charCodeAt(0)));

/** @throws Error with the name of the file */
function parsed(name: string, text: string): unknown {
  try {
    const read: unknown = parse(text, { maxAliasCount: 100 });
    JSON.stringify(read);
    return read;
  } catch (error) {
    throw new Error(`${name}: ${(error as Error).message.split("\n")[0]}`, { cause: error });
  }
}

function shown(text: string): string {
  return text.slice(0, 100).replace(/[\p{Cc}\p{Cf}\p{Cs}]/gu, "·");
}
