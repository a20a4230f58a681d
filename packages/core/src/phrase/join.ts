/** Segments of a phrase → what is wanted, each with all that belongs to it: "porch and hall off" are two of one wish. */
import type { Act } from "./act.ts";
import type { Segment, Selection, Span } from "./segmented.ts";
import type { Place } from "./vocabulary.ts";

/** What a selection leaves out: these names and kinds, those at the places where there are any; or all that is at the places. */
export interface Exception {
  readonly names: readonly Span[];
  readonly selections: readonly Selection[];
  readonly kinds: readonly string[];
  readonly places: readonly Place[];
}

export interface Wanted {
  readonly names: readonly Span[];
  readonly exceptions: readonly Exception[];
  readonly places: readonly Place[];
  readonly selection: Selection | null;
  /** null: nothing was wished. */
  readonly act: Act | null;
  readonly forMs: number | null;
  /** What it was said with, for a person. */
  readonly words: string;
}

interface Draft {
  names: Span[];
  exceptions: Exception[];
  places: Place[];
  selection: Selection | null;
  act: Act | null;
  forMs: number | null;
  words: string[];
}

/** In the order of the phrase. */
export function joinSegments(segments: readonly Segment[]): Wanted[] {
  const drafts: Draft[] = [];
  for (const segment of segments) {
    if (isBlank(segment)) continue;
    const last = drafts.at(-1);
    if (!last || !belongsTo(last, segment)) drafts.push(draftOf(segment, last));
    else absorb(last, segment);
  }
  shareActs(drafts);
  return drafts.map((draft) => ({ ...draft, words: draft.words.join(" ") }));
}

function isBlank(segment: Segment): boolean {
  const { names, places, selection, forMs } = segment;
  const isWished = isWish(segment) || forMs !== null;
  return !isWished && names.length + places.length + exceptionsOf(segment).length === 0 && selection === null;
}

function exceptionsOf({ except: { names, selections, places } }: Segment): Exception[] {
  const kinds = selections.flatMap((selection) => selection.kinds ?? []);
  return names.length + kinds.length + places.length === 0 ? [] : [{ names, selections, kinds, places }];
}

/** What has no target of its own says more of what came before; so do further exceptions, and a lone room. */
function belongsTo(last: Draft, segment: Segment): boolean {
  const { names, selection, places } = segment;
  const excepts = exceptionsOf(segment).length > 0;
  // A second time has nothing to belong to.
  if (segment.forMs !== null && last.forMs !== null && names.length === 0 && selection === null) return false;
  // "everything except the lights and everything in Finch off": what goes on with an exception is one.
  if (segment.carried && excepts && last.act === null) return true;
  if (isWish(segment) && names.length === 0 && selection === null) return last.act === null || actOf(segment).isEmpty;
  if (!isWish(segment) && excepts && names.length === 0) return true;
  // "everything off, in Wren": a place that stands alone says where.
  const isBarePlace = !isWish(segment) && names.length === 0 && !excepts && selection === null;
  if (isBarePlace && places.length > 0 && last.selection !== null) return true;
  const onlyPlaces = last.names.length === 0 && last.selection === null && last.places.length > 0 && last.act === null;
  return onlyPlaces && (selection !== null || places.length > 0 || names.length > 0);
}

function isWish(segment: Segment): boolean {
  return !actOf(segment).isEmpty || segment.forMs !== null;
}

function actOf({ verb, extent, number, numberBy, numberUnit, colour }: Segment): Act {
  const isEmpty = verb === null && extent === null && number === null && colour === null;
  return { verb, extent, number, numberBy, numberUnit, colour, isEmpty };
}

function draftOf(segment: Segment, last: Draft | undefined): Draft {
  const { names, except, places, forMs, used, pronoun } = segment;
  const act = actOf(segment);
  // After an exception a new wish begins anew: what it names is meant, not left out.
  const anew = isWish(segment) && names.length === 0 && (segment.selection === null || segment.carried);
  const selection = (anew ? except.selections[0] : null) ?? segment.selection;
  const repeats = names.length === 0 && except.names.length === 0 && selection === null && pronoun && last;
  return {
    names: repeats ? [...last.names] : [...names, ...(anew ? except.names : [])],
    exceptions: anew ? [] : exceptionsOf(segment),
    places: [...places, ...(anew ? except.places : [])],
    selection: repeats ? last.selection : selection,
    act: act.isEmpty ? null : act,
    forMs,
    words: wordsOf(used),
  };
}

/** Without the time, unless that is all there is. */
function wordsOf(used: Segment["used"]): string[] {
  const plain = used.filter(({ gave }) => !gave.startsWith("for "));
  return (plain.length > 0 ? plain : used).map(({ words }) => words);
}

function absorb(draft: Draft, segment: Segment): void {
  const act = actOf(segment);
  draft.names.push(...segment.names);
  draft.exceptions.push(...exceptionsOf(segment));
  draft.places.push(...segment.places);
  draft.selection ??= segment.selection;
  if (!act.isEmpty) draft.act = act;
  draft.forMs ??= segment.forMs;
  draft.words.push(...segment.used.map(({ words }) => words));
}

/** "on: porch and hall" and "porch and hall on": who says nothing wishes what stands before, else what comes after. */
function shareActs(drafts: Draft[]): void {
  const givers = new Set<Draft>();
  for (const [index, draft] of drafts.entries()) {
    if (draft.act !== null || (draft.names.length === 0 && draft.selection === null)) continue;
    const before = drafts[index - 1];
    const after = drafts.slice(index + 1).find(({ act }) => act !== null);
    // A scene needs no wish: it is one.
    if (
      draft.names.some(({ things }) => things.every((thing) => thing.is === "bundle" && thing.bundle.kind === "scene"))
    )
      continue;
    const from = before?.act ? before : after;
    if (from) givers.add(from);
    draft.act = from?.act ?? null;
    draft.forMs ??= from?.forMs ?? null;
  }
  // "turn off: the porch" — a wish that stands alone before its targets has been handed on.
  // One that nothing took has no target, and is told so.
  const isSpent = (draft: Draft) =>
    givers.has(draft) && draft.names.length === 0 && draft.selection === null && draft.places.length === 0;
  const spent = drafts.findIndex(isSpent);
  if (spent >= 0) drafts.splice(spent, 1);
}
