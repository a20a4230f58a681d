/** What an inlet says back, in words that can be changed for each. */
import type { Unread } from "../phrase/reading.ts";
import type { Replies } from "./model.ts";

export const defaultReplies: Replies = {
  greeting: "Hello {sender}. Say what should be on or off, like “{example}”. Say “help” for more.",
  help: "Name a channel and say what it should do: “{example}”. Several at once: “… and …”. For a while: “… for 10 minutes”. Or ask: “is … on?”, “what is on?”",
  result: "{result}",
  waiting: "{name}: accepted, not confirmed yet. {result}",
  which: "Which one: {choices}?",
  unknown: "Nothing was done: {why}",
  refused: "Nothing was done: {why}",
  unknownSender: "Sorry {sender}, you may not switch anything here.",
};

const COMMON_HOLES = ["sender", "words", "name", "example"];
const OUTCOME_HOLES = [...COMMON_HOLES, "result", "why"];

/** The holes that each reply fills. The reply of a route fills those of `result`. */
export const replyHoles: Readonly<Record<keyof Replies, readonly string[]>> = {
  greeting: COMMON_HOLES,
  help: COMMON_HOLES,
  result: OUTCOME_HOLES,
  waiting: OUTCOME_HOLES,
  which: [...COMMON_HOLES, "choices"],
  unknown: [...COMMON_HOLES, "why"],
  refused: OUTCOME_HOLES,
  unknownSender: COMMON_HOLES,
};

/** Longest reply, characters: some outside services cut off what is longer. */
const MOST_REPLY = 2_000;

/** @example fillReply("Hello {sender}.", { sender: "Ana" }) // → "Hello Ana." */
export function fillReply(template: string, holes: Readonly<Record<string, string>>): string {
  const text = template.replace(/\{([a-z]+)\}/g, (whole, hole: string) =>
    Object.hasOwn(holes, hole) ? (holes[hole] ?? "") : whole,
  );
  return text
    .replace(/ +([,.])/g, "$1")
    .replace(/ {2,}/g, " ")
    .trim()
    .slice(0, MOST_REPLY);
}

/** Why a phrase asks nothing, in a sentence that says what to do. */
export function unreadWords(why: Unread, words: string, nearest: readonly string[]): string {
  const offered = nearest.length === 0 ? "" : ` Did you mean ${listed(nearest)}?`;
  const can = nearest.length === 0 ? "" : ` It takes ${listed(nearest)}.`;
  switch (why) {
    case "empty":
      return "there are no words in it.";
    case "too-long":
      return "it is too long.";
    case "negated":
      return `“${words}” is in it, and only what shall be done is done. Say what it should be instead.`;
    case "contradicts":
      return "something is left out and asked for at once. Say it in two phrases.";
    case "condition":
      return `“${words}” is in it: say it when it shall happen.`;
    case "unknown-words":
      return `“${words}” is no name and no word that is known here.${offered}`;
    case "no-target":
      if (nearest.length > 0) return `“${words}” is a place. Say ${listed(nearest)}.`;
      return words === ""
        ? "it does not say of what."
        : `“${words}” has no target. Name a channel, a group or a scene beside it.`;
    case "no-action":
      return `it does not say what ${words === "" ? "should happen" : `${words} should do`}.${can}`;
    case "cannot":
      return `${words} cannot do that.${can || " It takes no commands."}`;
    case "several-sites":
      return `that is more than one site. Say which: ${listed(nearest)}.`;
    case "nothing-there":
      return nearest.length === 0
        ? "there is nothing like that there."
        : `it is not there. There is ${listed(nearest)}.`;
  }
}

function listed(all: readonly string[]): string {
  return all.map((one) => `“${one}”`).join(", ");
}
