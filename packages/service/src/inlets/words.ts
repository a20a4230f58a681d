/** What became of requests, in the words that are said back to whoever asked. */
import type { CommandView, RequestView } from "@bold-relay/api";
import { RelayError } from "@bold-relay/core";

/** @param settled one for each ask: the request, or why it was refused */
export function resultWords(settled: readonly PromiseSettledResult<RequestView>[]): string {
  return settled
    .map((one) => (one.status === "fulfilled" ? requestWords(one.value) : refusalWords(one.reason)))
    .join(" ");
}

function refusalWords(reason: unknown): string {
  return reason instanceof RelayError
    ? `Nothing was done: ${small(reason.message)}`
    : "Nothing was done: the service made a mistake.";
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
