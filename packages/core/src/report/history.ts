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
  /** The setpoint in words. */
  readonly to: string;
  readonly end: End | null;
}

/** What the answer tells of a command besides. */
export interface HistoryCommandDetail {
  /** Who asked, in words; see `requesterText`. */
  readonly by: string;
  /** Of the verdict: "Stopped at the device." */
  readonly headline: string;
}

export interface HistoryFacts<Command extends HistoryCommand = HistoryCommand> {
  /** As people say it: "Porch lantern, Finch". */
  readonly name: string;
  /** What it is, in words; null: unknown. */
  readonly is: string | null;
  readonly isOnNow: boolean;
  /** Whether it is on or off at all; a number in a unit is neither. Default true. */
  readonly isSwitched?: boolean;
  readonly online: boolean | null;
  /** Oldest first. */
  readonly changes: readonly HistoryChange[];
  readonly commands: readonly Command[];
  /** From when to when, ms since 1970. */
  readonly from: number;
  readonly now: number;
  /** A time of day in words, where the reader is. */
  readonly clock: (at: number) => string;
}

/** How long it was on between two times, ms. */
export function onTimeMs(facts: HistoryFacts): number {
  return onStretches(facts).reduce((sum, { from, to }) => sum + to - from, 0);
}

/** When it was on, oldest first; ms since 1970. */
export function onStretches({ changes, from, now, isOnNow }: HistoryFacts): { from: number; to: number }[] {
  const states = [
    { at: from, on: wasOn({ changes, isOnNow }) },
    ...changes.map(({ at, to }) => ({ at, on: isOn(to) })),
  ];
  return states.flatMap(({ at, on }, index) => (on ? [{ from: at, to: states[index + 1]?.at ?? now }] : []));
}

/** Whether it was on when the time began that is told of. */
export function wasOn({ changes, isOnNow }: Pick<HistoryFacts, "changes" | "isOnNow">): boolean {
  const [first] = changes;
  return first === undefined ? isOnNow : first.from !== null && isOn(first.from);
}

/** The commands that the answer names: which made it what it is, and the last that did not arrive. */
export function commandsTold<Command extends HistoryCommand>({ is, changes, commands }: HistoryFacts<Command>) {
  const change = changes.at(-1);
  return {
    // Only one that wanted what it became can have made it so.
    made:
      change?.cause === "command"
        ? commands.findLast(({ at, to, end }) => at <= change.at && end === "delivered" && to === is)
        : undefined,
    stopped: commands.findLast(({ end }) => isStopped(end)),
  };
}

/** A command that ended so did not reach its target stage, and nothing newer took its place. */
export function isStopped(end: End | null): boolean {
  return end === "failed" || end === "unanswered" || end === "expired";
}

/**
 * What to tell somebody who asks why it is as it is.
 *
 * @param detailOf of a command that `commandsTold` named
 * @example historyAnswer(facts, detailOf)
 *   // → "Porch lantern, Finch has been on since 18:47, requested by Ines. In 24 h: 3 commanded, 1 not delivered;
 *   //    on for 2 h."
 */
export function historyAnswer<Command extends HistoryCommand>(
  facts: HistoryFacts<Command>,
  detailOf: (command: Command) => HistoryCommandDetail,
): string {
  const { name, is, online, commands, clock, from, now } = facts;
  const { made, stopped } = commandsTold(facts);
  const away = online === false ? " Its device is offline." : "";
  const state =
    is === null
      ? `${name}: state unknown; it never reported.`
      : `${name} ${stateWords(facts, is, made && detailOf(made))}.`;
  const trouble = stopped ? ` ${troubleWords(stopped, detailOf(stopped), clock)}` : "";
  const notDelivered = commands.filter(({ end }) => isStopped(end)).length;
  const on = onTimeMs(facts);
  const onWords = facts.isSwitched === false ? "" : on > 0 ? `; on for ${formatDuration(on)}` : "; never on";
  const asked = commands.length === 0 ? "no commands" : `${commands.length} commanded, ${notDelivered} not delivered`;
  return `${state}${away} In ${formatDuration(now - from)}: ${asked}${onWords}.${trouble}`;
}

function troubleWords(
  { to, at }: HistoryCommand,
  { by, headline }: HistoryCommandDetail,
  clock: HistoryFacts["clock"],
): string {
  return `Last not delivered: ${to}, requested by ${by} at ${clock(at)}. ${headline}`;
}

function stateWords({ changes, clock, from, now }: HistoryFacts, is: string, made?: HistoryCommandDetail): string {
  const change = changes.at(-1);
  if (!change) return `is ${is}, unchanged for ${formatDuration(now - from)}`;
  const since = `has been ${is} since ${clock(change.at)}`;
  const by = causeWords(change.cause);
  if (by) return `${since}, ${by}`;
  if (change.cause !== "command") return `${since}, unknown cause`;
  return made ? `${since}, requested by ${made.by}` : `${since}, by a command`;
}
