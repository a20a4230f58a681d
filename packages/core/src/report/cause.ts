/** What changed a channel, in words, where it was no command of ours. */
import type { Cause } from "../state/observe.ts";

const WORDS: Partial<Record<Cause, string>> = {
  hand: "by hand",
  timer: "by its own timer",
  boot: "by its power-up",
  late: "by a late command",
  foreign: "by another publisher",
  retained: "from a retained message, age unknown",
};

/** null: a command made it so, or nobody knows what did. */
export function causeWords(cause: Cause): string | null {
  return WORDS[cause] ?? null;
}
