/** What a command that has ended leaves behind: whether it may have switched its channel without anybody having seen it. Pure. */
import { READ } from "../channel/value.ts";
import type { Command } from "./command.ts";

/**
 * Whether it was sent and may take effect late: then a change that fits it is its own. After "nobody listens", a refusal by the broker
 * or a no of the device, nothing can.
 */
export function mayComeLate({ to, end, reason }: Pick<Command, "to" | "end" | "reason">): boolean {
  if (to === READ) return false;
  return end === "unanswered" || end === "overtaken" || (end === "failed" && MAY_HAVE_MOVED.includes(reason));
}

const MAY_HAVE_MOVED: readonly (Command["reason"] | undefined)[] = ["contradicted", "not-arrived"];

/**
 * Whether what was known of the channel before it does not count any more: it was sent and ended without proof by a report.
 * One that can have changed nothing leaves the state what it was.
 */
export function leavesDoubt(command: Pick<Command, "to" | "end" | "reason" | "stage" | "hops">): boolean {
  if (mayComeLate(command)) return true;
  const { to, end, stage, hops } = command;
  if (end !== "delivered" || stage === "confirmed" || to === READ) return false;
  return !hops.some(({ kind }) => kind === "unchanged");
}

/** When it was written last, ms since 1970; null: never. */
export function lastSentAt({ hops }: Pick<Command, "hops">): number | null {
  return hops.findLast(({ kind }) => kind === "sent")?.at ?? null;
}
