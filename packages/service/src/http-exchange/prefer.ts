/** What a caller says beside its body: how long the answer may wait, and which call this is. */
import type { IncomingHttpHeaders } from "node:http";
import { type AskBody, MAX_WAIT_S } from "@bold-relay/api";
import { type Intent, RelayError, readTraceparent } from "@bold-relay/core";

/** What a checked body, and the headers that came with it, ask for. */
export function intentOf({ target, action, value, forMs, until }: AskBody, headers: IncomingHttpHeaders): Intent {
  return {
    target,
    action,
    value: value ?? null,
    forMs: forMs ?? null,
    until: until ?? null,
    repeatKey: repeatKeyOf(headers),
    traceparent: readTraceparent(headers.traceparent),
  };
}

/**
 * `Prefer: wait=N` (RFC 7240, section 4.3).
 *
 * @returns s, 0 when nothing usable was said, at most MAX_WAIT_S
 * @example preferredWaitS("respond-async, wait=5") // → 5
 */
export function preferredWaitS(header: string | string[] | undefined): number {
  const text = Array.isArray(header) ? header.join(",") : (header ?? "");
  const match = /(?:^|,)\s*wait\s*=\s*"?(\d{1,6})"?\s*(?:[;,]|$)/i.exec(text);
  return match ? Math.min(Number(match[1]), MAX_WAIT_S) : 0;
}

/** `Prefer: return=minimal` (RFC 7240, section 4.2): the caller wants to know how it went, and nothing else. */
export function prefersMinimal(header: string | string[] | undefined): boolean {
  const text = Array.isArray(header) ? header.join(",") : (header ?? "");
  return /(?:^|,)\s*return\s*=\s*"?minimal"?\s*(?:[;,]|$)/i.test(text);
}

/**
 * `Idempotency-Key`: the caller's own name for this call, known for at least 24 h.
 *
 * @returns null when there is none
 * @throws RelayError bad-request when it is not 1 to 200 visible characters
 */
export function repeatKeyOf(headers: IncomingHttpHeaders): string | null {
  const key = headers["idempotency-key"];
  if (key === undefined) return null;
  if (typeof key !== "string" || !/^[\x21-\x7e]{1,200}$/.test(key)) {
    throw new RelayError("bad-request", { why: "“Idempotency-Key” must be 1 to 200 visible characters" });
  }
  return key;
}
