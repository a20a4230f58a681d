/**
 * Files in which people describe sites, profiles, inlets and notifications: YAML, or JSON (RFC 8259). Whatever stands in
 * one is read in a time that its size bounds, or refused with the reason.
 */
import { readFile, stat } from "node:fs/promises";
import { deeperThan } from "@bold-relay/core";
import { parse } from "yaml";

/** What the service takes at most, bytes. */
const MOST_BYTES = 10_485_760;
/** How many brackets may stand open at once. A site needs ten. */
const DEEPEST = 100;
/** References in a file may not grow into more than this many copies. */
const MOST_ALIASES = 100;

/** @throws Error that names the file, the place in it where there is one, and what is wrong */
export async function readDescription(file: string): Promise<unknown> {
  try {
    const { size } = await stat(file);
    if (size > MOST_BYTES) throw new Error(`it has ${size} bytes; the service takes ${MOST_BYTES} at most.`);
    return describedIn(textOf(await readFile(file)));
  } catch (error) {
    const { code, message } = error as NodeJS.ErrnoException;
    const why = code === "ENOENT" ? "there is no such file." : code === "EISDIR" ? "it is a folder." : shown(message);
    throw new Error(`${file}: ${why}`, { cause: error });
  }
}

/** @throws Error with what is wrong with the text */
export function describedIn(text: string): unknown {
  requireFlat(text);
  if (!/^\s*[[{]/.test(text)) return yamlOf(text);
  try {
    return JSON.parse(text);
  } catch (error) {
    // YAML may begin so too; a large file is JSON, which is told what is wrong with it as such.
    if (text.length > 100_000) throw error;
    return yamlOf(text);
  }
}

/** @throws Error also for an alias within its own anchor, which would be a description without an end */
function yamlOf(text: string): unknown {
  const read: unknown = parse(text, { maxAliasCount: MOST_ALIASES });
  try {
    JSON.stringify(read);
  } catch {
    throw new Error("an alias stands within what it refers to, so the description has no end.");
  }
  return read;
}

function textOf(bytes: Buffer): string {
  try {
    return new TextDecoder("utf-8", { fatal: true }).decode(bytes);
  } catch {
    throw new Error("it is no text in UTF-8.");
  }
}

function requireFlat(text: string): void {
  const at = deeperThan(text, DEEPEST);
  if (at !== null) throw new Error(`more than ${DEEPEST} brackets stand open at character ${at + 1}.`);
}

/** A parser shows the place in the file: its bytes are not the terminal's to obey. */
function shown(message: string): string {
  return message
    .slice(0, 600)
    .replace(/(?!\n)[\p{Cc}\p{Cf}\p{Cs}]/gu, "·")
    .trimEnd();
}
