/** What a phrase asks about instead of for: "is the gate shut?", "what is on in Wren?" */
import type { ChannelId } from "../id.ts";
import type { ChannelEntry } from "../site/entry.ts";
import type { Segment, Span } from "./segmented.ts";
import type { Token } from "./token.ts";
import { isAt, type Place, type Vocabulary } from "./vocabulary.ts";
import { questionWords, type Verb } from "./words.ts";

/** What may be asked of a state. */
export type AskedState = "on" | "off" | "open" | "shut";

export interface Question {
  readonly channels: readonly ChannelId[];
  /** Only those that are so are told of; null: all. */
  readonly which: AskedState | null;
  /** What the sender thinks that all of them are: "is it on?"; null: what it is was asked. */
  readonly expected: AskedState | null;
  /** With `which`: "is anything on?" wants a yes or a no before the list. */
  readonly any: boolean;
}

type Find = (span: Span, places: readonly Place[]) => ChannelEntry[];

const ASKED: Partial<Record<Verb, AskedState>> = {
  on: "on",
  off: "off",
  open: "open",
  up: "open",
  close: "shut",
  down: "shut",
  pressed: "on",
};

/** @returns null when it is no question */
export function questionOf(
  tokens: readonly Token[],
  segments: readonly Segment[],
  find: Find,
  vocabulary: Vocabulary,
): Question | null {
  const first = tokens[0]?.text ?? "";
  const asked = questionWords.has(first) || tokens.at(-1)?.text === "?";
  // "could you turn on the porch?" is polite, and no question.
  if (!asked || (!questionWords.has(first) && isPolite(tokens))) return null;
  const names = segments.flatMap((segment) => segment.names);
  const places = segments.flatMap((segment) => segment.places);
  const verb = segments.map((segment) => segment.verb).find((one) => one !== null) ?? null;
  const state = verb === null ? null : (ASKED[verb] ?? null);
  const selection = segments.map((segment) => segment.selection).find((one) => one !== null) ?? null;
  if (names.length > 0) {
    const channels = names.flatMap((span) => find(span, places));
    return { channels: channels.map(({ id }) => id), which: null, expected: state, any: false };
  }
  const kinds = selection?.kinds ?? null;
  const there = vocabulary.channels.filter(
    (channel) =>
      (kinds === null || kinds.includes(channel.kind)) &&
      (places.length === 0 || places.some((place) => isAt(channel, place))),
  );
  const found = { channels: there.map(({ id }) => id) };
  const isYesOrNo = YES_OR_NO.has(first) && state !== null;
  const any = isYesOrNo && segments.some(({ indefinite }) => indefinite !== null);
  // "are all lights off?" is about all of them; "which lights are off?" about those that are.
  if (isYesOrNo && !any && selection !== null) return { ...found, which: null, expected: state, any: false };
  return { ...found, which: state, expected: null, any };
}

/** Whether a word stands for something that was not named. @example refersToNothing("is it on?") // → true */
export function refersToNothing(segments: readonly Segment[]): boolean {
  const isNamed = segments.some(
    ({ names, selection, places }) => names.length + places.length > 0 || selection !== null,
  );
  return !isNamed && segments.some(({ pronoun }) => pronoun);
}

/** A question that begins so wants a yes or a no. */
const YES_OR_NO: ReadonlySet<string> = new Set(["is", "are", "was", "did", "does"]);

function isPolite(tokens: readonly Token[]): boolean {
  return ["could", "can", "would", "will", "please", "turn", "switch", "set"].includes(tokens[0]?.text ?? "");
}
