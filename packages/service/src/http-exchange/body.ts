/** Reads a small JSON body: bounded in size and time, exact about what is wrong with it. */
import type { IncomingMessage } from "node:http";
import { deeperThan, type Finding, RelayError } from "@bold-relay/core";
import type { ObjectSchema, ValidationErrorItem } from "joi";
import { limits } from "../platform/config/limits.ts";

interface BodyBounds {
  readonly bytes: number;
  readonly withinMs: number;
}

const SMALL: BodyBounds = { bytes: limits.bodyBytes, withinMs: limits.bodyWithinMs };

/**
 * Reads and checks a body.
 *
 * @param bounds the most bytes, and how long they may take to arrive, ms
 *
 * @throws RelayError wrong-content-type, body-too-large, body-too-slow, bad-json or bad-request
 */
export async function readBody<Body>(
  req: IncomingMessage,
  schema: ObjectSchema<Body>,
  bounds: BodyBounds = SMALL,
): Promise<Body> {
  return checked(schema, await readJson(req, bounds));
}

/**
 * Reads a body as JSON, whatever is in it.
 *
 * @throws RelayError wrong-content-type, body-too-large, body-too-slow, bad-json or bad-request
 */
export async function readJson(req: IncomingMessage, bounds: BodyBounds = SMALL): Promise<unknown> {
  requireJson(req);
  return parseJson(await readText(req, bounds));
}

/**
 * Percent-encoding must be right (RFC 3986, 2.1), of UTF-8, and hold no control character: no database and no log line takes those.
 *
 * @throws RelayError bad-request
 */
export function requirePlainAddress(url: string): void {
  if (!url.includes("%")) return;
  let plain: string;
  try {
    plain = decodeURIComponent(url.replaceAll("+", " "));
  } catch (cause) {
    throw new RelayError("bad-request", { why: "The address holds a % that is no character" }, { cause });
  }
  if (/\p{Cc}/u.test(plain)) throw new RelayError("bad-request", { why: "The address holds a control character" });
}

/** JSON, or a merge patch of it (RFC 7396). @throws RelayError wrong-content-type */
export function requireJson({ headers, method }: IncomingMessage): void {
  const type = /^application\/(merge-patch\+)?json\s*(?:;|$)/i.exec(headers["content-type"] ?? "");
  if (!type || (type[1] !== undefined && method !== "PATCH")) throw new RelayError("wrong-content-type");
}

/** @throws RelayError bad-request naming every mistake at once */
export function checked<Value>(schema: ObjectSchema<Value>, input: unknown): Value {
  const { value, error } = schema.validate(input, { abortEarly: false });
  if (!error) return value;
  const details = error.details.flatMap(innerOf).slice(0, MOST_MISTAKES);
  throw badRequest(
    details.map(({ message }) => message),
    details.map(({ path }) => placeText(path)),
  );
}

/** A schema that chose another one says what that found. */
function innerOf(detail: ValidationErrorItem): ValidationErrorItem[] {
  const inner: unknown = detail.context?.details;
  return Array.isArray(inner) ? inner : [detail];
}

/** Most mistakes of one body that are told. */
const MOST_MISTAKES = 50;

/** @example placeText(["rooms", 0, "name"]) // → "rooms[0].name" */
function placeText(path: readonly (string | number)[]): string {
  return path
    .map((part) => (typeof part === "number" ? `[${part}]` : `.${part}`))
    .join("")
    .replace(/^\./, "");
}

/** @param places where each mistake is, as `rooms[0].name`; empty: nobody knows, or the whole */
function badRequest(mistakes: readonly string[], places: readonly string[] = []): RelayError {
  return new RelayError("bad-request", { why: mistakes.slice(0, 10).join("; ").slice(0, 1_000), mistakes, places });
}

/** The mistakes of a body that was refused, as findings; null: it was refused for something else. */
export function mistakesIn(error: unknown): Finding[] | null {
  if (!(error instanceof RelayError) || error.code !== "bad-request") return null;
  const { mistakes = [], places = [], why = "" } = error.facts;
  if (!Array.isArray(mistakes) || !Array.isArray(places) || mistakes.length === 0)
    return [{ level: "wrong", at: "", text: String(why) }];
  return mistakes.map((text: string, at) => ({ level: "wrong", at: places[at] ?? "", text }));
}

/** What is compressed would be taken for what it is not, and can be far larger than it looks (RFC 9110, 8.4). @throws RelayError wrong-encoding */
function requirePlain({ headers }: IncomingMessage): void {
  const encoding = headers["content-encoding"]?.trim().toLowerCase() ?? "identity";
  if (encoding !== "identity" && encoding !== "") throw new RelayError("wrong-encoding");
}

const checks = new WeakMap<IncomingMessage, () => Promise<void>>();

/** What is asked once the body has been read, before anything is done with it: a body may take its time, and a right end meanwhile. */
export function checkAfterBody(req: IncomingMessage, check: () => Promise<void>): void {
  if (!req.complete) checks.set(req, check);
}

/** @throws RelayError wrong-encoding, body-too-large, body-too-slow or bad-json, and what is checked after the body */
export async function readText(req: IncomingMessage, bounds: BodyBounds = SMALL): Promise<string> {
  requirePlain(req);
  const text = await readWhole(req, bounds);
  await checks.get(req)?.();
  return text;
}

function readWhole(req: IncomingMessage, { bytes: limit, withinMs }: BodyBounds): Promise<string> {
  const tooLarge = () => new RelayError("body-too-large", { limit });
  if (Number(req.headers["content-length"] ?? 0) > limit) {
    req.resume();
    return Promise.reject(tooLarge());
  }
  return new Promise((resolve, reject) => {
    const chunks: Buffer[] = [];
    let size = 0;
    const timer = setTimeout(() => finish(new RelayError("body-too-slow", { limit: withinMs / 1000 })), withinMs);
    const onData = (chunk: Buffer) => {
      size += chunk.length;
      if (size > limit) finish(tooLarge());
      else chunks.push(chunk);
    };
    const onEnd = () => finish(null);
    let finished = false;
    // Every request closes in the end: an error for nothing would be most of what reading it costs.
    const onClose = () => {
      if (!finished) finish(new RelayError("bad-json", { why: "the connection closed before its end" }));
    };
    function finish(error: Error | null): void {
      if (finished) return;
      finished = true;
      clearTimeout(timer);
      if (error) {
        req.off("data", onData);
        req.resume();
        reject(error);
      } else {
        resolve((chunks.length === 1 ? (chunks[0] as Buffer) : Buffer.concat(chunks)).toString("utf8"));
      }
    }
    req.on("data", onData).on("end", onEnd).on("close", onClose).on("error", onClose);
  });
}

/** @throws RelayError bad-json or bad-request */
export function parseJson(text: string): unknown {
  if (text === "") throw new RelayError("bad-json", { why: "it is empty" });
  const deep = deeperThan(text, limits.bodyDepth);
  if (deep !== null)
    throw new RelayError("bad-json", {
      why: `more than ${limits.bodyDepth} brackets stand open at character ${deep + 1}`,
    });
  let body: unknown;
  try {
    body = JSON.parse(text);
  } catch (error) {
    throw new RelayError("bad-json", { why: String((error as Error).message).slice(0, 200) }, { cause: error });
  }
  // Nothing that is kept as text can hold these: a look at the text tells whether they can be there at all.
  if (/\\u(?:0000|d[89a-f])/i.test(text) && holdsNoText(body))
    throw new RelayError("bad-json", { why: "a text in it holds NUL, or half of a character" });
  // Joi does not see this name among the unknown ones, and where any name is taken it would be one.
  if (/__proto__|\\u00[567]/i.test(text) && namesPrototype(body)) throw badRequest(["“__proto__” is not allowed"]);
  return body;
}

/** How deep it goes has been bounded before. */
function namesPrototype(value: unknown): boolean {
  if (typeof value !== "object" || value === null) return false;
  return (!Array.isArray(value) && Object.hasOwn(value, "__proto__")) || Object.values(value).some(namesPrototype);
}

/** Whether some text or name holds what is no text. How deep it goes has been bounded before. */
function holdsNoText(value: unknown): boolean {
  if (typeof value === "string") return value.includes("\u0000") || /\p{Cs}/u.test(value);
  if (typeof value !== "object" || value === null) return false;
  if (Array.isArray(value)) return value.some(holdsNoText);
  return Object.entries(value).some(([name, one]) => holdsNoText(name) || holdsNoText(one));
}
