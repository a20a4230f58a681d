/** The values of all outputs side by side, as a board takes or tells them: "0,1,0". Pure. */
import type { ChannelBinding } from "./codec.ts";
import { type Meaning, writeValue } from "./meaning.ts";
import type { TextForm } from "./text-form.ts";

/**
 * All outputs as text, each in the board's own word for on or off.
 *
 * @param set a bit for each output that is on at the board, the lowest for the first
 * @example listText(5, { listLength: 4, words: { on: 1, off: 0 } }, relay) // → "1,0,1,0"
 */
export function listText(set: number, settings: Meaning & TextForm, binding: ChannelBinding): string {
  const { listLength = 1, listSeparator = "," } = settings;
  return Array.from({ length: listLength }, (_, place) => {
    const isSet = Math.floor(set / 2 ** place) % 2 === 1;
    // Which way round it is wired is in the bits already.
    return writeValue(
      isSet ? "on" : "off",
      { ...settings, bits: false, turned: false },
      { ...binding, place, reversed: false },
    );
  }).join(listSeparator);
}
