/**
 * One number for all outputs of a board, a bit for each: 5 says that the first and the third are on. A command for one of them tells
 * all, so that what the others are must be known. Pure.
 */
import type { ChannelBinding } from "./codec.ts";
import { isTurned, type WordMeaning } from "./words.ts";

export interface BitForm {
  /** The value is one number with a bit for each channel, the lowest for the first. Default false. */
  readonly bits?: boolean;
}

/** Channels beyond this have no bit: the widest number that a board writes has 32. */
export const MOST_BITS = 32;

/** What a channel adds to the number while it is on or off. @example bitFor("on", {}, binding of the third) // → 4 */
export function bitFor(to: "on" | "off", meaning: WordMeaning, binding: ChannelBinding): number {
  const isSet = (to === "on") !== isTurned(meaning, binding);
  return isSet ? 2 ** (binding.place ?? 0) : 0;
}

/** @returns null when the number holds no bit of this channel */
export function readBit(number: number, meaning: WordMeaning, binding: ChannelBinding): "on" | "off" | null {
  const { place = 0 } = binding;
  if (!Number.isInteger(number) || number < 0 || number >= 2 ** MOST_BITS || place >= MOST_BITS) return null;
  const isSet = Math.floor(number / 2 ** place) % 2 === 1;
  return isSet !== isTurned(meaning, binding) ? "on" : "off";
}
