/** What a kind of channel is: which actions it takes, and what each asks for. */
import { coloursIn, isColour, type Value } from "./value.ts";

/**
 * What an action asks for:
 * - to: always the same setpoint
 * - level: the number that the asker gives, in the kind's range
 * - colour: the colour that the asker gives
 * - pattern: the colours that the asker gives, for lamps one after the other
 * - step: so much more or less than it is; the asker may say how much
 * - toggle: the other of on and off
 * - back: what it was before the last change
 *
 * `urgent` ones overtake whatever is in flight and are tried until they are proven.
 */
export type Action =
  | { readonly asks: "to"; readonly to: Value; readonly urgent?: true }
  | { readonly asks: "level" }
  | { readonly asks: "colour" }
  | { readonly asks: "pattern" }
  | { readonly asks: "step"; readonly sign: 1 | -1 }
  | { readonly asks: "toggle" }
  | { readonly asks: "back" };

/** An action that commissioning asks for, and its value where it takes one. */
export interface Trial {
  readonly action: string;
  readonly value?: number | string;
}

/**
 * Everything that differs between kinds of channels. All that the product does with channels is derived from it: the grammar,
 * the checks of a description, commissioning, the keys on the Board, what may blink, how questions are answered.
 */
export interface ChannelKind {
  readonly name: string;
  /** One line for help and documents. */
  readonly about: string;
  /** Actions that may be asked. */
  readonly actions: Readonly<Record<string, Action>>;
  /** The numbers that it takes, both ends included; null where it takes none. */
  readonly range: NumberRange | null;
  /** What “on” and “off” mean for it, where a rule needs them. */
  readonly full: Value;
  readonly rest: Value;
  /** Whether asking for the same twice does no harm. A pulse is no setpoint: it must never be repeated unasked. */
  readonly repeatable: boolean;
  /** Whether a power-up rule may move it. */
  readonly restorable: boolean;
  /** Set where it is only looked at and nothing is ever sent to it; false for everything that acts. */
  readonly input: false | InputKind;
  /** What people call one of them and many. The grammar takes these words for all channels of the kind. */
  readonly nouns: readonly (readonly [one: string, many: string])[];
  /** Words for its own actions, beside those that many kinds share (on, off, open, …). @example { dim: "darker" } */
  readonly verbs: Readonly<Record<string, string>>;
  /** What commissioning asks of it, in turn. The last one leaves it at rest. Empty for inputs; of what has a range of its own see `trialsOf`. */
  readonly trials: readonly Trial[];
  /** Whether it may blink to identify its device. Only a lamp may: behind a relay there may be a heater. */
  readonly blinks: boolean;
  /** The keys on the Board, by their actions, from left to right; and what sets any value beside them. */
  readonly control: { readonly keys: readonly string[]; readonly setting: "level" | "colour" | "pattern" | null };
  /** Which questions its state answers; null: none. See `QuestionKind`. */
  readonly answers: QuestionKind | null;
  /** What else may see its state, where it does not report: one channel that tells on or off, or two end contacts. */
  readonly seenBy: readonly ("one" | "ends")[];
  /** Whether a report of this value, of an unknown device, suggests this kind; null: no report does. */
  readonly suggestedBy: ((value: Value) => boolean) | null;
  /** A value as people say it. @example dimmer.words(35) // → "35 %" */
  words(value: Value): string;
}

/** The numbers that a kind of channel takes. */
export interface NumberRange {
  readonly least: number;
  readonly most: number;
  /** From one to the next. Default 1. */
  readonly step?: number;
  readonly unit: string;
  /**
   * Ends, step and unit are those of each channel (`ChannelRange`), and its device counts in that unit, or as scale and offset of its
   * profile say. Such a number is neither on nor off.
   */
  readonly ofChannel?: true;
}

/** The range of one channel, where its kind leaves that to channels. @example { least: 5, most: 30, step: 0.5 } */
export interface ChannelRange {
  readonly least: number;
  readonly most: number;
  /** Default 1. */
  readonly step?: number;
}

/** What is only looked at. */
export interface InputKind {
  /** How a person changes it in commissioning. @example "open or close the contact" */
  readonly changedBy: string;
  /** A number with a unit, kept as readings and never on or off. */
  readonly reading: boolean;
}

/**
 * - switched: is it on, is it off
 * - opening: is it open, is it shut
 * - made: what the contact means when it is made, which the channel says (`made`)
 */
export type QuestionKind = "switched" | "opening" | "made";

/** How much a step changes when the asker does not say, in the kind's unit. */
export const DEFAULT_STEP = 10;

/** How much a step changes when the asker does not say, in the channel's unit. */
export function stepOf({ range }: Pick<ChannelKind, "range">): number {
  return range?.ofChannel ? (range.step ?? 1) : DEFAULT_STEP;
}

const ranged = new WeakMap<ChannelRange, ChannelKind>();

/** A kind that leaves its range to channels, with that of one channel; any other kind as it is. */
export function kindWithRange(kind: ChannelKind, own: ChannelRange): ChannelKind {
  if (!kind.range?.ofChannel) return kind;
  const known = ranged.get(own);
  if (known) return known;
  const made = { ...kind, range: { ...kind.range, ...own } };
  ranged.set(own, made);
  return made;
}

/**
 * The number of the kind's range that is nearest, counted in its steps from its lower end. Minus zero is zero.
 *
 * @example clampLevel(dimmer, 140) // → 100
 * @example clampLevel(thermostat in steps of 0.5, 21.3) // → 21.5
 */
export function clampLevel({ range }: ChannelKind, level: number): number {
  if (!range) return level;
  const { least, most, step = 1 } = range;
  // As many digits as its ends and its step have hide what binary fractions add.
  const stepped = Number((least + Math.round((level - least) / step) * step).toFixed(digitsOf(least, step)));
  return Math.min(most, Math.max(least, stepped)) + 0;
}

/** Digits behind the point, of numbers that people write. */
function digitsOf(...numbers: number[]): number {
  return Math.max(...numbers.map((number) => Math.min(6, String(number).split(".")[1]?.length ?? 0)));
}

/** Whether a channel of this kind can be seen to be so. A sensor may read any number. */
export function isOfKind(value: Value, { range, rest, actions, answers, repeatable }: ChannelKind): boolean {
  if (isColour(rest)) return coloursIn(value).length > 0 && (takesPatterns({ actions }) || isColour(value));
  if (range?.ofChannel) return typeof value === "number";
  if (typeof value === "number") return range ? value >= range.least && value <= range.most : typeof rest === "number";
  if (range) return value === "on" || (answers === "opening" && ["stop", "between", "moving"].includes(value));
  if (typeof rest === "number") return false;
  return value === "on" || value === "off" || (value === "pulse" && !repeatable);
}

/** Whether it takes several colours at once. */
export function takesPatterns({ actions }: Pick<ChannelKind, "actions">): boolean {
  return Object.values(actions).some(({ asks }) => asks === "pattern");
}

/** Whether it reads numbers. */
export function readsNumbers({ input }: Pick<ChannelKind, "input">): boolean {
  return input !== false && input.reading;
}

/**
 * What commissioning asks of it, in turn. A number of its own range goes to the middle and a step beside it, and stays in the middle.
 *
 * @example trialsOf(thermostat from 5 to 30 in steps of 0.5) // → level 18, level 17.5
 */
export function trialsOf(kind: ChannelKind): readonly Trial[] {
  const { trials, range } = kind;
  if (!range?.ofChannel) return trials;
  const middle = clampLevel(kind, (range.least + range.most) / 2);
  return [clampLevel(kind, middle + (range.step ?? 1)), middle].map((value) => ({ action: "level", value }));
}

/** Whether its values are numbers in the unit of the channel, and neither on nor off. */
export function countsNumbers({ input, range }: Pick<ChannelKind, "input" | "range">): boolean {
  return readsNumbers({ input }) || range?.ofChannel === true;
}

/** The action that ends it, for a hold that is released: it stops where it is, or goes off. */
export function endActionOf({ actions }: Pick<ChannelKind, "actions">): "stop" | "off" {
  return "stop" in actions ? "stop" : "off";
}

/** The action that always asks for this value; null where none does. @example actionTo(position, 0) // → "close" */
export function actionTo({ actions }: Pick<ChannelKind, "actions">, value: Value): string | null {
  const found = Object.entries(actions).find(([, action]) => action.asks === "to" && action.to === value);
  return found?.[0] ?? null;
}
