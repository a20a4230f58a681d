/**
 * Lets only plain entries of a tar through (POSIX.1-2001, pax, "ustar Interchange Format"). Extended headers and long names are held in
 * memory whole by whoever reads them, whatever size they claim: an export has none, so they are refused before a byte of them is kept.
 */
import { Transform } from "node:stream";

const BLOCK = 512;
/** Bytes of a header: how long the entry is, in octal digits, and of what type. */
const SIZE = { from: 124, to: 136 } as const;
const TYPE = 156;
const NAME_BYTES = 100;
/** A file, in its two spellings. */
const FILE = new Set(["0", "\0"]);
const FOLDER = "5";

/** @throws through the stream: Error that says what is refused */
export function plainEntries(): Transform {
  let header = Buffer.alloc(0);
  /** Bytes of content, with its padding, before the next header. */
  let rest = 0;

  /** @returns where the next header, or piece of one, begins in the chunk */
  function follow(chunk: Buffer, from: number): number {
    if (rest > 0) {
      const skipped = Math.min(rest, chunk.length - from);
      rest -= skipped;
      return from + skipped;
    }
    const piece = chunk.subarray(from, from + BLOCK - header.length);
    header = Buffer.concat([header, piece]);
    if (header.length < BLOCK) return chunk.length;
    rest = contentOf(header);
    header = Buffer.alloc(0);
    return from + piece.length;
  }

  return new Transform({
    transform(chunk: Buffer, _encoding, done) {
      try {
        for (let at = 0; at < chunk.length; ) at = follow(chunk, at);
        done(null, chunk);
      } catch (error) {
        done(error as Error);
      }
    },
  });
}

/** Bytes of content behind a header, with padding to whole blocks. @throws Error where it is not a plain one */
function contentOf(header: Buffer): number {
  // The end of an archive: blocks of zeros.
  if (header.every((byte) => byte === 0)) return 0;
  const type = String.fromCharCode(header[TYPE] ?? 0);
  if (type !== FOLDER && !FILE.has(type))
    throw new Error(`an entry of type “${/[ -~]/.test(type) ? type : "?"}” does not belong in it`);
  const digits = header
    .toString("latin1", SIZE.from, SIZE.to)
    .replace(/[\0 ]+$/, "")
    .trimStart();
  if (!/^[0-7]{1,11}$/.test(digits)) throw new Error("the size of an entry cannot be read");
  const bytes = Number.parseInt(digits, 8);
  // Who reads a folder takes what stands behind it for the next header, whatever size it claims. One is also a file whose name ends so.
  const name = header.toString("latin1", 0, NAME_BYTES).split("\0")[0] ?? "";
  if (bytes > 0 && (type === FOLDER || name === "" || name.endsWith("/")))
    throw new Error("a folder with content does not belong in it");
  return Math.ceil(bytes / BLOCK) * BLOCK;
}
