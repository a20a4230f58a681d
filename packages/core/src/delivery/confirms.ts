/** What of a device's reports proves a command. */
import { agrees, READ } from "../channel/value.ts";
import { type Command, wasSent } from "./command.ts";
import type { Report } from "./command-event.ts";
import { stillWithin } from "./policy.ts";

/** Whether a report proves that this command happened. @param now ms since 1970 */
export function confirms(command: Command, report: Report, now: number): boolean {
  // Whatever the device says once it was asked, it says what it is.
  if (command.to === READ) return report.live && !report.waited && wasSent(command) && isAtBroker(command);
  if (whyOlder(command, report) !== null) return false;
  if (!report.live || !saysSo(command, report, now)) return false;
  if (report.id !== null) return report.id === command.id;
  // A hand at the wall, a timer or a power-up that happens to give the same value proves nothing about the command.
  return (report.by === null || report.by === "command") && command.attempts > 0;
}

/** A stop is told by the device's word for it, or by the same position a stated time later: one position may be of its way. */
function saysSo({ to, accepted, stood, policy }: Command, { value }: Report, now: number): boolean {
  if (to !== "stop" || typeof value !== "number") return agrees(value, to, accepted);
  return stood !== null && stood.value === value && now - stood.at >= stillWithin(policy);
}

/** Why it may have been said before the command was written; null: it was said later, or names its command. */
export function whyOlder(command: Command, { waited, id }: Report): "waited" | "early" | null {
  if (id !== null) return null;
  if (waited) return "waited";
  return isAtBroker(command) ? null : "early";
}

/**
 * Whether the broker has taken a write of it. It says so before it hands on what a device says because of it, so whatever comes earlier on
 * the same connection was said earlier, however long the line stood still. Of a write without a receipt nobody can tell; what was written
 * on a connection that has ended is there by now, or never will be.
 */
function isAtBroker(command: Command): boolean {
  const { publishedAt, acknowledgedAt, sentAt, maybeSent, hops } = command;
  if (publishedAt !== null || acknowledgedAt !== null || sentAt === null || maybeSent) return true;
  if (isWrittenBlind(command)) return true;
  return hops.some(({ kind, attempt }) => kind === "link-lost" || (kind === "refused" && attempt !== undefined));
}

/**
 * Whether it is written at QoS 0, without a receipt: at QoS 1 the broker may hand it to the device twice, and one that cannot tell
 * would act twice. Where the receipt is all that can ever be proven, there must be one.
 */
export function isWrittenBlind({ once, policy }: Pick<Command, "once" | "policy">): boolean {
  return once && !policy.knowsRepeats && policy.targetStage !== "published";
}
