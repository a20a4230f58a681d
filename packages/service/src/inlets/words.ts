/** What became of requests, and what channels are, in the words that are said back to whoever asked. */
import type { CommandView, RequestView } from "@bold-relay/api";
import { type ChannelEntry, type Question, RelayError, type Snapshot } from "@bold-relay/core";

type Settled = readonly PromiseSettledResult<RequestView>[];

/** @param settled one for each ask: the request, or why it was refused */
export function resultWords(settled: Settled): string {
  const words = settled.map((one) =>
    one.status === "fulfilled" ? requestWords(one.value) : `Nothing was done: ${whyNot(one.reason)}`,
  );
  return words.join(" ");
}

/** Why what was refused was. */
export function refusalWords(settled: Settled): string {
  return settled.flatMap((one) => (one.status === "rejected" ? whyNot(one.reason) : [])).join(" ");
}

function whyNot(reason: unknown): string {
  return reason instanceof RelayError ? small(reason.message) : "the service made a mistake.";
}

function requestWords({ commands, target, action }: RequestView): string {
  const [first] = commands;
  if (!first) return "Nothing was done.";
  if (commands.length === 1) return commandWords(first);
  const there = commands.filter(({ end }) => end === "complete").length;
  const rest = commands
    .filter(({ end }) => end !== "complete")
    .map((one) => `${nameOf(one)}: ${small(one.verdict.headline)}`);
  return `${target}, ${action}: ${there} of ${commands.length} done. ${rest.join(" ")}`.trim();
}

function commandWords(command: CommandView): string {
  const { verdict, toText, end } = command;
  const why = verdict.tone === "bad" ? ` ${verdict.text}` : "";
  return `${nameOf(command)} → ${toText}: ${end === null ? "still on its way." : small(verdict.headline)}${why}`;
}

function nameOf({ channelName, room }: CommandView): string {
  return `${channelName}, ${room}`;
}

function small(sentence: string): string {
  return sentence.charAt(0).toLowerCase() + sentence.slice(1);
}

export interface StateSight {
  readonly snapshot: () => Snapshot;
  /** What a channel is, in words; null: nobody knows. */
  readonly is: (
    channel: ChannelEntry,
  ) => { readonly text: string; readonly value: string; readonly on: boolean } | null;
}

/** More than this nobody listens to. */
const MOST_TOLD = 20;

/** What is, in a sentence; what nobody knows is said to be so. */
export function stateWords({ channels, which, expected }: Question, { snapshot, is }: StateSight): string {
  const told = channels.flatMap((id) => snapshot().byId.get(id) ?? []).map((channel) => ({ channel, is: is(channel) }));
  const fitting = which === null ? told : told.filter((one) => one.is !== null && one.is.on === (which === "on"));
  if (which !== null && fitting.length === 0) {
    const unknown = told.filter((one) => one.is === null).length;
    return `None of ${told.length} is ${which}.${unknown > 0 ? ` Of ${unknown} nobody knows.` : ""}`;
  }
  const [only] = told;
  const asked = expected !== null && told.length === 1 && only?.is;
  const says = asked ? (asked.on === (expected === "on") ? "Yes. " : "No. ") : "";
  const shown = fitting.slice(0, MOST_TOLD).map((one) => {
    return `${one.channel.name}, ${one.channel.room.name}: ${one.is?.text ?? "unknown"}.`;
  });
  const more = fitting.length > shown.length ? ` And ${fitting.length - shown.length} more.` : "";
  return `${says}${shown.join(" ")}${more}`;
}
