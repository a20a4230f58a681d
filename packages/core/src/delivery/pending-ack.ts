/**
 * Acknowledgements without a name. Each write owes one; an answer pays the oldest that is owed. So the late
 * answer of an older command is never taken for the newer one's.
 */
import type { CommandId } from "../id.ts";
import { answerWaitMs } from "./backoff.ts";
import type { Command } from "./command.ts";

export interface PendingAck {
  readonly command: CommandId;
  /** From when on no answer to that write is expected any more, ms since 1970. */
  readonly until: number;
}

/**
 * How long an answer may be late, ms. A board on a bad line answers three attempts at once when the line is back: each of these is
 * the answer to an old write, and none may be taken for that of a newer one.
 */
const LATE_MS = 60_000;

/**
 * The answer that a command owes for the write just made. The broker keeps the message for at most one answer time
 * (its expiry); then the device may take its time to answer.
 */
export function expectAck({ id, policy, attempts }: Command, now: number): PendingAck {
  const waitMs = answerWaitMs(policy, Math.max(1, attempts), id);
  return { command: id, until: now + waitMs + Math.max(policy.ackWithinMs, LATE_MS) };
}

/** Pays the oldest debt that has not timed out; `paid` is null when nothing was owed. */
export function matchAck(
  pendingAcks: readonly PendingAck[],
  now: number,
): { readonly pendingAcks: readonly PendingAck[]; readonly matched: CommandId | null } {
  const owed = pendingAcks.filter((pendingAck) => pendingAck.until > now);
  return { pendingAcks: owed.slice(1), matched: owed[0]?.command ?? null };
}
