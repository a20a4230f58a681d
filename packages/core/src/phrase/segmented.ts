/** What a phrase falls into: one segment for each thing that is asked. */

import type { SaidUnit } from "./unit.ts";
import type { Place, Thing } from "./vocabulary.ts";
import type { Extent, Verb } from "./words.ts";

/** A name that was found: what it may mean, and where it stands. */
export interface Span {
  /** Its first token: tells apart two that are alike. */
  readonly at: number;
  readonly words: string;
  readonly things: readonly Thing[];
}

export interface Used {
  readonly words: string;
  /** What they were taken for, in words. */
  readonly gave: string;
}

/** The same on the way: what is left out in the end is told as left out. */
export interface UsedDraft extends Used {
  /** The name, the places or the selection that the words stand for. */
  readonly of?: Span | Selection | Place;
}

/** Every channel of these kinds; null: of any kind. */
export interface Selection {
  readonly kinds: readonly string[] | null;
  readonly many: boolean;
  readonly word: string;
}

export interface Segment {
  readonly names: Span[];
  readonly places: Place[];
  selection: Selection | null;
  /** What stands after "except": names, kinds ("except the lights") and places ("except in Finch"). */
  readonly except: { readonly names: Span[]; readonly selections: Selection[]; readonly places: Place[] };
  /** "Except" stands in a segment before it: "except the lights and Finch". */
  readonly carried: boolean;
  verb: Verb | null;
  extent: Extent | null;
  number: number | null;
  /** The word before the number, where it tells how it is meant: "by 20" or "to 20". */
  numberBy: "by" | "to" | null;
  numberUnit: SaidUnit | null;
  colour: string | null;
  forMs: number | null;
  pronoun: boolean;
  readonly unknown: { readonly words: string; readonly from: number }[];
  /** Words for which a question has no use, although a request has: a level, a colour, a time, "except". */
  readonly forRequests: string[];
  /** "any", "some": whatever of them. */
  indefinite: string | null;
  readonly used: UsedDraft[];
  excepting: boolean;
}

export interface Segmented {
  readonly segments: readonly Segment[];
  /** The word that forbids to act on any of it; null: there is none. */
  readonly forbids: { readonly word: string; readonly why: "negated" | "condition" } | null;
}
