/** A page of the console, held in memory: whoever asks for many addresses that are pages costs no reads of the disk. */
import { createHash } from "node:crypto";
import { readFile } from "node:fs/promises";
import type { RequestHandler } from "express";

/** After so long it is read again, for a new build may be there, ms. */
const HELD_MS = 1_000;
/** Compressed at build, the best first, with what their files end in. */
const ENCODINGS = { br: ".br", gzip: ".gz", identity: "" } as const;
type Encoding = keyof typeof ENCODINGS;

interface Version {
  readonly body: Buffer;
  readonly etag: string;
}

type Page = Partial<Record<Encoding, Version>>;

/** Answers every address with this page. Passes on what is neither GET nor HEAD, and all where the file is not there. */
export function heldPage(file: string): RequestHandler {
  let held: { readonly page: Promise<Page>; readonly until: number } | null = null;
  return async (req, res, next) => {
    if (req.method !== "GET" && req.method !== "HEAD") return next();
    const now = performance.now();
    if (held === null || now >= held.until) held = { page: readPage(file), until: now + HELD_MS };
    const page = await held.page;
    const names = Object.keys(page) as Encoding[];
    const encoding = (req.acceptsEncodings(names) || "identity") as Encoding;
    const version = page[encoding];
    if (!version) return next();
    res.setHeader("content-type", "text/html; charset=utf-8");
    // The page names files by their hashes: an old one would name files that are gone.
    res.setHeader("cache-control", "no-cache");
    res.setHeader("vary", "Accept-Encoding");
    res.setHeader("etag", version.etag);
    // By ETag and If-None-Match (RFC 9110, 13.1.2).
    if (req.fresh) {
      res.statusCode = 304;
      res.end();
      return;
    }
    if (encoding !== "identity") res.setHeader("content-encoding", encoding);
    res.setHeader("content-length", version.body.length);
    res.end(req.method === "HEAD" ? undefined : version.body);
  };
}

async function readPage(file: string): Promise<Page> {
  const read = Object.entries(ENCODINGS).map(async ([encoding, ending]) => {
    const body = await readFile(file + ending).catch((error: NodeJS.ErrnoException) => {
      if (error.code === "ENOENT") return null;
      throw error;
    });
    if (body === null) return [];
    return [[encoding, { body, etag: `"${createHash("sha256").update(body).digest("base64url").slice(0, 27)}"` }]];
  });
  return Object.fromEntries((await Promise.all(read)).flat()) as Page;
}
