/**
 * Answers to questions: "is the gate shut?", "what is on in Wren?" Never yes or no without evidence: what is unknown, old, or of
 * a kind that cannot tell, is said to be so. Pure.
 */
import { kindOf } from "../channel/index.ts";
import type { Value } from "../channel/value.ts";
import { coloursIn } from "../channel/value.ts";
import type { AskedState, Question } from "../phrase/question.ts";
import { type ChannelEntry, channelWords } from "../site/entry.ts";
import { type StateAge, staleWords } from "../state/state-age.ts";
import { formatAgo } from "./duration.ts";

/** What is known of one channel. */
export interface KnownState {
  readonly channel: ChannelEntry;
  /** null: nobody knows. */
  readonly value: Value | null;
  readonly age: StateAge;
  /** The newest setpoint that it took; for what stands somewhere after a stop. */
  readonly lastTaken: Value | null;
}

export interface Answer {
  /** null: it cannot be said. */
  readonly yes: boolean | null;
  /** What it is, in words. */
  readonly text: string;
}

/** More than this nobody listens to. */
const MOST_TOLD = 20;

/**
 * What one channel is, and whether that is what was asked.
 *
 * @param asked null: only what it is
 * @param now ms since 1970
 */
export function answerOf(state: KnownState, asked: AskedState | null, now: number): Answer {
  const { channel, value, age } = state;
  if (!kindOf(channel.kind).repeatable) return { yes: null, text: "it cannot tell: a pulse contact reports no state" };
  if (value === null) return { yes: null, text: "unknown" };
  const text = stateText(state, value);
  if (age.stale !== null) {
    const ago = age.asOf === null ? null : formatAgo(now - age.asOf);
    return { yes: null, text: `${text} (${staleWords(age.stale, ago)})` };
  }
  return { yes: asked === null ? null : isAsAsked(channel, value, asked), text };
}

/** Whether the question suits this kind of channel at all. */
function suits({ kind, made }: ChannelEntry, asked: AskedState): boolean {
  const aboutOpening = asked === "open" || asked === "shut";
  const { answers } = kindOf(kind);
  if (answers === "made")
    return aboutOpening ? made === "open" || made === "shut" : made === "on" || made === "pressed";
  return answers !== null && aboutOpening === (answers === "opening");
}

/** @returns null when this kind, or this value, does not tell */
function isAsAsked(channel: ChannelEntry, value: Value, asked: AskedState): boolean | null {
  if (!suits(channel, asked)) return null;
  const { answers } = kindOf(channel.kind);
  if (answers === "opening") return isPositionAsAsked(value, asked);
  if (answers === "made" && (asked === "open" || asked === "shut"))
    return (value === "on") === (channel.made === asked);
  const on = isOnNow(value);
  return on === null ? null : on === (asked === "on");
}

/** Half open is neither open nor shut; but it is not shut. */
function isPositionAsAsked(value: Value, asked: AskedState): boolean | null {
  if (value === "stop" || value === "moving") return null;
  if (asked === "shut") return value === 0;
  if (value === 100) return true;
  return value === 0 ? false : null;
}

function isOnNow(value: Value): boolean | null {
  if (typeof value === "number") return value !== 0;
  if (value === "on" || value === "off") return value === "on";
  const colours = coloursIn(value);
  return colours.length === 0 ? null : colours.some((colour) => colour !== "#000000");
}

function stateText({ channel, lastTaken }: KnownState, value: Value): string {
  if (value !== "stop") return channelWords(channel, value);
  return typeof lastTaken === "number"
    ? `stopped in between, last commanded ${channelWords(channel, lastTaken)}`
    : "stopped, position unknown";
}

/**
 * The whole answer in sentences.
 *
 * @example "Yes. Porch lantern, Wren: on."
 */
export function answerWords({ which, expected, any }: Question, states: readonly KnownState[], now: number): string {
  if (which !== null) return whichWords(which, states, now, any);
  if (expected !== null && states.length > 1) return allWords(expected, states, now);
  const answers = states.map((state) => ({ state, answer: answerOf(state, expected, now) }));
  const [only] = answers;
  const says = answers.length === 1 && only && only.answer.yes !== null ? (only.answer.yes ? "Yes. " : "No. ") : "";
  return `${says}${told(answers)}`;
}

/** "Are all lights off?": one that is not makes it a no; one of which nobody knows leaves it open. */
function allWords(asked: AskedState, states: readonly KnownState[], now: number): string {
  const suitable = states.filter(({ channel }) => suits(channel, asked));
  if (suitable.length === 0) return `Nothing there can be ${asked}.`;
  const answers = suitable.map((state) => ({ state, answer: answerOf(state, asked, now) }));
  const otherwise = answers.filter(({ answer }) => answer.yes === false);
  const unsure = answers.filter(({ answer }) => answer.yes === null);
  if (otherwise.length > 0) return `No. ${told(otherwise)}`;
  if (unsure.length > 0) return `Not certain: ${told(unsure)}`;
  return `Yes. All ${answers.length} are ${asked}.`;
}

function whichWords(asked: AskedState, states: readonly KnownState[], now: number, any: boolean): string {
  const suitable = states.filter(({ channel }) => suits(channel, asked));
  const answers = suitable.map((state) => ({ state, answer: answerOf(state, asked, now) }));
  const fitting = answers.filter(({ answer }) => answer.yes === true);
  const unsure = answers.filter(({ answer }) => answer.yes === null);
  const open = unsure.length === 0 ? "" : ` Not certain: ${told(unsure)}`;
  if (suitable.length === 0) return `Nothing there can be ${asked}.`;
  if (fitting.length > 0) return `${any ? "Yes. " : ""}${told(fitting)}${open}`;
  const no = any && unsure.length === 0 ? "No. " : "";
  return `${no}${unsure.length === 0 ? `None of ${suitable.length} is ${asked}.` : `None is known to be ${asked}.`}${open}`;
}

function told(answers: readonly { readonly state: KnownState; readonly answer: Answer }[]): string {
  const shown = answers.slice(0, MOST_TOLD).map(({ state: { channel }, answer }) => {
    return `${channel.name}, ${channel.room.name}: ${answer.text}.`;
  });
  const more = answers.length > shown.length ? ` And ${answers.length - shown.length} more.` : "";
  return `${shown.join(" ")}${more}`;
}
