/** What became of requests, and what channels are, in the words that are said back to whoever asked. */
import type { CommandView, RequestView } from "@bold-relay/api";
import {
  answerWords,
  type ChannelEntry,
  type KnownState,
  type Question,
  RelayError,
  type Snapshot,
} from "@bold-relay/core";

type Settled = readonly PromiseSettledResult<RequestView>[];

/**
 * @param settled one for each request: what became of it, or why it was refused
 * @param nameOf what people call the target of a request: "All porches", not its address
 */
export function resultWords(settled: Settled, nameOf: (target: string) => string): string {
  const words = settled.map((one) =>
    one.status === "fulfilled" ? requestWords(one.value, nameOf) : `Nothing was done: ${whyNot(one.reason)}`,
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

function requestWords({ commands, target, action }: RequestView, nameOf: (target: string) => string): string {
  const [first] = commands;
  if (!first) return "Nothing was done.";
  if (commands.length === 1) return commandWords(first);
  const there = commands.filter(({ end }) => end === "delivered").length;
  const rest = commands
    .filter(({ end }) => end !== "delivered")
    .map((one) => `${channelName(one)}: ${small(one.verdict.headline)}`);
  return `${nameOf(target)} → ${action}: ${there} of ${commands.length} delivered. ${rest.join(" ")}`.trim();
}

function commandWords(command: CommandView): string {
  const { verdict, toText, end } = command;
  const why = verdict.severity === "bad" ? ` ${verdict.text}` : "";
  return `${channelName(command)} → ${toText}: ${end === null ? "still on its way." : small(verdict.headline)}${why}`;
}

function channelName({ channelName: name, room }: CommandView): string {
  return `${name}, ${room}`;
}

function small(sentence: string): string {
  return sentence.charAt(0).toLowerCase() + sentence.slice(1);
}

export interface StateInput {
  readonly snapshot: () => Snapshot;
  /** What is known of a channel's state. */
  readonly stateOf: (channel: ChannelEntry) => KnownState;
  /** ms since 1970. */
  readonly now: () => number;
}

/**
 * Words for the ear: signs that only the eye reads are spoken as words, or left out.
 *
 * @example spoken("Porch lantern, Wren → on: confirmed.") // → "Porch lantern, Wren, on: confirmed."
 */
export function spoken(text: string): string {
  return text.replaceAll(" → ", ", ").replaceAll(/[“”]/g, "");
}

/** What is, in sentences; what nobody knows is said to be so. */
export function stateWords(question: Question, { snapshot, stateOf, now }: StateInput): string {
  const channels = question.channels.flatMap((id) => snapshot().byId.get(id) ?? []);
  return answerWords(question, channels.map(stateOf), now());
}
