/** The last 24 hours of a channel, and one line about it to read to a caller. Pure. */
import { isOn, type Value } from "../channel/value.ts";
import type { End } from "../delivery/stage.ts";
import type { Cause } from "../state/observe.ts";
import { causeWords } from "./cause.ts";
import { formatDuration } from "./duration.ts";

export interface HistoryChange {
  /** ms since 1970. */
  readonly at: number;
  readonly from: Value | null;
  readonly to: Value;
  readonly cause: Cause;
}

export interface HistoryCommand {
  /** ms since 1970. */
  readonly at: number;
  /** Who asked, in words; see `requesterText`. */
  readonly by: string;
  /** The setpoint in words. */
  readonly to: string;
  readonly end: End | null;
  /** Of the verdict: "Stopped at the device." */
  readonly headline: string;
}

export interface HistoryFacts {
  /** As people say it: "Porch lantern, Finch". */
  readonly name: string;
  /** What it is, in words; null: unknown. */
  readonly is: string | null;
  readonly isOnNow: boolean;
  readonly online: boolean | null;
  /** Oldest first. */
  readonly changes: readonly HistoryChange[];
  readonly commands: readonly HistoryCommand[];
  /** From when to when, ms since 1970. */
  readonly from: number;
  readonly now: number;
  /** A time of day in words, where the reader is. */
  readonly clock: (at: number) => string;
}

/** How long it was on between two times, ms. */
export function onTimeMs({ changes, from, now, isOnNow }: HistoryFacts): number {
  let total = 0;
  let since = from;
  let on = wasOn({ changes, isOnNow });
  for (const { at, to } of changes) {
    if (on) total += at - since;
    on = isOn(to);
    since = at;
  }
  return total + (on ? now - since : 0);
}

/** Whether it was on when the time began that is told of. */
export function wasOn({ changes, isOnNow }: Pick<HistoryFacts, "changes" | "isOnNow">): boolean {
  const [first] = changes;
  return first === undefined ? isOnNow : first.from !== null && isOn(first.from);
}

/**
 * What to tell somebody who asks why it is as it is.
 *
 * @example historyAnswer(facts)
 *   // → "Porch lantern, Finch has been on since 18:47, requested by Ines. In 24 h: 3 commanded, 1 not delivered;
 *   //    on for 2 h."
 */
export function historyAnswer(facts: HistoryFacts): string {
  const { name, is, online, commands, clock } = facts;
  const away = online === false ? " Its device is offline." : "";
  const state = is === null ? `${name}: state unknown; it never reported.` : `${name} ${stateWords(facts, is)}.`;
  const stopped = commands.filter(({ end }) => end === "failed" || end === "unanswered" || end === "expired");
  const last = stopped.at(-1);
  const trouble = last
    ? ` Last not delivered: ${last.to}, requested by ${last.by} at ${clock(last.at)}. ${last.headline}`
    : "";
  const on = onTimeMs(facts);
  const onWords = on > 0 ? ` on for ${formatDuration(on)}` : " never on";
  const asked = commands.length === 0 ? "no commands" : `${commands.length} commanded, ${stopped.length} not delivered`;
  return `${state}${away} In 24 h: ${asked};${onWords}.${trouble}`;
}

function stateWords({ changes, commands, clock }: HistoryFacts, is: string): string {
  const change = changes.at(-1);
  if (!change) return `is ${is}, unchanged for 24 h`;
  const since = `has been ${is} since ${clock(change.at)}`;
  const by = causeWords(change.cause);
  if (by) return `${since}, ${by}`;
  if (change.cause !== "command") return `${since}, unknown cause`;
  // Only one that wanted what it became can have made it so.
  const command = commands.findLast(({ at, to, end }) => at <= change.at && end === "delivered" && to === is);
  return command ? `${since}, requested by ${command.by}` : `${since}, by a command`;
}
