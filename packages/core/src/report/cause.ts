/** What changed a channel, in words, where it was no command of ours. */
import type { Cause } from "../state/observe.ts";

const WORDS: Partial<Record<Cause, string>> = {
  hand: "by hand",
  timer: "its own timer",
  boot: "its power-up",
  late: "a late command",
  foreign: "another publisher",
  retained: "retained, age unknown",
};

/** null: a command made it so, or nobody knows what did. */
export function causeWords(cause: Cause): string | null {
  return WORDS[cause] ?? null;
}
