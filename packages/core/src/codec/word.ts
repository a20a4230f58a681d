/**
 * Bare words and numbers, as many simple boards speak them: `do` on, off, pulse or 35 · `done` ok or no, or a
 * result code, 1 for done · `is` on, off or 35 · `here` up or down. Nothing names a command, so answers are told
 * apart by their turn. Case and spaces around do not alert. It is `text` with nothing but defaults.
 */
import type { Codec } from "./codec.ts";
import { type TextSettings, text } from "./text.ts";

const BARE: TextSettings = { form: "text", do: "{value}", doFor: "{value} {for}" };

export const word: Codec<{ readonly form: "word" }> = {
  name: "word",
  about: "bare words and numbers, without ids",
  bind: (_settings, binding) => text.bind(BARE, binding),
  firmware: (_settings, binding) => text.firmware(BARE, binding),
  decodeHere: (_settings, payload) => text.decodeHere(BARE, payload),
  encodeHere: (_settings, presence) => text.encodeHere(BARE, presence),
};
