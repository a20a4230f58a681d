/** When a lane wants to be woken, and from when on each of its commands may do what it waits for. */
import type { Command } from "./command.ts";
import { commandIn, type Lane, type Moment, type Slot } from "./lane.ts";
import { dueAt, livesUntil, mayRetry } from "./transition.ts";

/** When the lane wants to be woken if nothing comes, ms since 1970; Infinity when it wants nothing. */
export function laneDueAt(lane: Lane, moment: Moment): number {
  let due = Number.POSITIVE_INFINITY;
  for (const slot of lane.slots) due = Math.min(due, slotDueAt(lane, slot, moment));
  return due;
}

function slotDueAt(lane: Lane, { place, command }: Slot, moment: Moment): number {
  if (place === "watched") return isHeldOpen(lane, command) ? Number.POSITIVE_INFINITY : dueAt(command);
  return place === "flight" ? flightDueAt(command, moment) : waitingDueAt(lane, command, moment);
}

function waitingDueAt(lane: Lane, command: Command, { linkUp, clear }: Moment): number {
  if (!clear(command)) return waitsUntil(command);
  const blocked = !command.urgent && lane.slots.some((slot) => slot.place === "flight");
  const free = !blocked && command.sending !== "asked" && linkUp;
  return Math.min(livesUntil(command), free ? turnAt(lane, command) : Number.POSITIVE_INFINITY);
}

/** An urgent one stays watched while a newer one waits: whether that gets its turn is not known yet. */
export function isHeldOpen(lane: Lane, command: Command): boolean {
  return command.urgent && !command.held && commandIn(lane, "waiting", command.channel) !== null;
}

export function flightDueAt(flight: Command, moment: Moment): number {
  const mayWrite = mayRetry(flight, moment.now);
  if (flight.lostLink && mayWrite && moment.linkUp) return moment.now;
  const answerDue = dueAt(flight);
  // With the link down a further attempt must wait for it, but not past the command's own time.
  if (mayWrite && !moment.linkUp) return Math.max(answerDue, livesUntil(flight));
  return answerDue;
}

/** When a waiting command ends if its turn does not come. */
export function waitsUntil(command: Command): number {
  const { clearWithinMs, askedAt } = command;
  return Math.min(livesUntil(command), clearWithinMs === null ? Number.POSITIVE_INFINITY : askedAt + clearWithinMs);
}

/** From when on the least time between two writes is kept; an urgent one need not keep it, unless it is tried again. */
export function turnAt(lane: Lane, command: Command): number {
  if (lane.lastSentAt === null || (command.urgent && command.attempts === 0)) return 0;
  return lane.lastSentAt + command.policy.minGapMs;
}
