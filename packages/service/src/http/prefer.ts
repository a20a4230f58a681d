/** `Prefer: wait=N` (RFC 7240, section 4.3): how long the caller lets the answer wait. */
import { MAX_WAIT_S } from "@bold-relay/api";

/**
 * @returns s, 0 when nothing usable was said, at most MAX_WAIT_S
 * @example preferredWaitS("respond-async, wait=5") // → 5
 */
export function preferredWaitS(header: string | string[] | undefined): number {
  const text = Array.isArray(header) ? header.join(",") : (header ?? "");
  const match = /(?:^|,)\s*wait\s*=\s*"?(\d{1,6})"?\s*(?:[;,]|$)/i.exec(text);
  return match ? Math.min(Number(match[1]), MAX_WAIT_S) : 0;
}
