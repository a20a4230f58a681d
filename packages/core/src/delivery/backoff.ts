/** How long each attempt waits for its acknowledgement before the next one starts. */
import type { DeliveryPolicy } from "./policy.ts";

/** An urgent command is tried until it is proven: not more often than this once it has failed for a while, ms. */
const LONGEST_WAIT_MS = 30_000;

/**
 * Each attempt waits a quarter longer than the one before, plus up to a fifth of jitter, so that
 * boards which fell silent together are not asked again together. The jitter is drawn from the
 * command's id: the same command always waits the same, which keeps the core pure and replays exact.
 *
 * @param attempt 1 for the first write
 * @returns ms after the write; for the default policy 2.0-2.4 s, then 2.5-3.0 s, then 3.1-3.8 s, never much above 30 s
 */
export function answerWaitMs(
  { ackWithinMs }: Pick<DeliveryPolicy, "ackWithinMs">,
  attempt: number,
  commandId: string,
): number {
  const growth = 1.25 ** Math.min(attempt - 1, 40);
  const jitter = 1 + 0.2 * fraction(`${commandId}:${attempt}`);
  return Math.round(Math.min(ackWithinMs * growth, Math.max(ackWithinMs, LONGEST_WAIT_MS)) * jitter);
}

/** FNV-1a over the text, as a fraction from 0 up to 1. */
function fraction(text: string): number {
  let hash = 0x811c9dc5;
  for (let index = 0; index < text.length; index += 1) {
    hash = Math.imul(hash ^ text.charCodeAt(index), 0x01000193);
  }
  return (hash >>> 0) / 0x1_0000_0000;
}
