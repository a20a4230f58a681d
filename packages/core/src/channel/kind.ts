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

export interface ChannelKind {
  readonly name: string;
  /** One line for help and documents. */
  readonly about: string;
  /** Actions that may be asked. */
  readonly actions: Readonly<Record<string, Action>>;
  /** The numbers that it takes, whole ones, both ends included; null where it takes none. */
  readonly range: { readonly least: number; readonly most: number; readonly unit: string } | null;
  /** What “on” and “off” mean for it, where a rule needs them. */
  readonly full: Value;
  readonly rest: Value;
  /** Whether asking for the same twice does no harm. A pulse is no setpoint: it must never be repeated unasked. */
  readonly repeatable: boolean;
  /** Whether a power-up rule may move it. */
  readonly restorable: boolean;
  /** It is only looked at: a contact, a reading. Nothing is ever sent to it. */
  readonly input: boolean;
  /** A value as people say it. @example dimmer.words(35) // → "35 %" */
  words(value: Value): string;
}

/** How much a step changes when the asker does not say, in the kind's unit. */
export const DEFAULT_STEP = 10;

/**
 * The whole number within the kind's range that is nearest. Minus zero is zero.
 *
 * @example clampLevel(dimmer, 140) // → 100
 */
export function clampLevel({ range }: ChannelKind, level: number): number {
  if (!range) return level;
  return Math.min(range.most, Math.max(range.least, Math.round(level))) + 0;
}

/** Whether a channel of this kind can be seen to be so. A sensor may read any number. */
export function isOfKind(value: Value, { range, rest, name, repeatable }: ChannelKind): boolean {
  if (isColour(rest)) return coloursIn(value).length > 0 && (name === "lamps" || isColour(value));
  if (typeof value === "number") return range ? value >= range.least && value <= range.most : typeof rest === "number";
  if (range) return value === "stop" || (value === "between" && name === "position");
  if (typeof rest === "number") return false;
  return value === "on" || value === "off" || (value === "pulse" && !repeatable);
}
