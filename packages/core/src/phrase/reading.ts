/** What a phrase comes to: what is asked, what is answered, or why nothing is. */
import type { ChannelId } from "../id.ts";
import type { Question } from "./question.ts";
import type { Used } from "./segmented.ts";

/** One thing that is asked. */
export interface PhraseAsk {
  /** The address of a channel, a group or a scene; or words for several channels: "every light in Wren". */
  readonly target: string;
  /** The channels, where they have no name together. */
  readonly among: readonly ChannelId[] | null;
  readonly action: string;
  readonly value: number | string | null;
  /** ms */
  readonly forMs: number | null;
}

export interface Choice {
  readonly address: string;
  /** As people say it. */
  readonly name: string;
}

/** Why a phrase asks nothing. */
export type Unread =
  | "empty"
  | "too-long"
  | "negated"
  | "contradicts"
  | "condition"
  | "unknown-words"
  | "no-target"
  | "no-action"
  | "cannot"
  | "several-sites"
  | "nothing-there";

export type Reading =
  | { readonly reads: "asks"; readonly asks: readonly PhraseAsk[]; readonly used: readonly Used[] }
  | { readonly reads: "question"; readonly question: Question; readonly used: readonly Used[] }
  /** It may mean several: the sender must say which. `at` tells which name of the phrase it is about. */
  | { readonly reads: "which"; readonly at: number; readonly words: string; readonly choices: readonly Choice[] }
  | { readonly reads: "help" }
  | { readonly reads: "greeting" }
  | {
      readonly reads: "nothing";
      readonly why: Unread;
      /** What was not understood, or cannot be done. */
      readonly words: string;
      /** The nearest names or words that there are, best first. */
      readonly nearest: readonly string[];
    };

/** Which of several was meant, by the place of the name in the phrase. */
export type Decided = ReadonlyMap<number, string>;

/** How many choices are offered at most. */
export const MOST_CHOICES = 10;

/** What a reading comes to on the way, where it cannot go on. Never leaves this folder. */
export class Stop extends Error {
  readonly reading: Reading;
  constructor(reading: Reading) {
    super(reading.reads);
    this.reading = reading;
  }
}

export function nothing(why: Unread, words: string, nearest: readonly string[] = []): Reading {
  return { reads: "nothing", why, words, nearest };
}
