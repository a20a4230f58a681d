/** Names → channels, groups and scenes: case, stray spaces and commas do not matter; whole names only; nothing is guessed. */
import type { ChannelEntry } from "./entry.ts";
import type { Bundle, Snapshot } from "./snapshot.ts";

export type Resolution =
  | { readonly found: ChannelEntry }
  /** The name is that of a group or a scene. */
  | { readonly bundle: Bundle }
  /** Several have this name, these are their addresses: the asker must say which. */
  | { readonly ambiguous: readonly string[] }
  /** Nothing has this name; the nearest addresses, best first. */
  | { readonly unknown: string; readonly nearest: readonly string[] }
  /** The name cannot be one. */
  | { readonly wildcard: string };

/** A channel, or a group or scene. */
type Named = ChannelEntry | Bundle;

/** How many a refusal names at most. */
const MOST_OFFERED = 3;

/** @example normalName("  Porch  LANTERN, Wren ") // → "porch lantern wren" */
export function normalName(text: string): string {
  return text.normalize("NFKC").toLowerCase().replaceAll(",", " ").replace(/\s+/gu, " ").trim();
}

/**
 * Finds what a text names, within some sites or all.
 *
 * @param sites only what belongs to these sites is found, and only that is offered; null: everything
 */
export function resolveName(snapshot: Snapshot, text: string, sites: readonly string[] | null): Resolution {
  const wildcard = /[+#$]/u.exec(text);
  if (wildcard) return { wildcard: wildcard[0] };
  // Programs say addresses, which are normal already: what is found as it is need not be made so.
  const named = snapshot.byName.get(text) ?? snapshot.byName.get(normalName(text)) ?? [];
  const matches = sites === null ? named : named.filter(({ site }) => sites.includes(site.slug));
  const [first] = matches;
  if (!first) return { unknown: text, nearest: nearestNames(snapshot, text, sites) };
  if (matches.length > 1) return { ambiguous: matches.map(({ address }) => address) };
  return "members" in first ? { bundle: first } : { found: first };
}

/** The addresses of what is called nearly so, best first: what has all these words in its name, then what is spelt nearly like it. */
export function nearestNames(snapshot: Snapshot, text: string, sites: readonly string[] | null): string[] {
  const offered = new Set(namesWith(snapshot, text, sites));
  for (const address of namesSpeltLike(snapshot, text, sites)) offered.add(address);
  return [...offered].slice(0, MOST_OFFERED);
}

/**
 * The addresses of what has all these words in one of its names, the shortest names first.
 *
 * @example namesWith(snapshot, "gate", null) // → ["alder-row/plover/gate"], called “Drive gate, Plover”
 */
export function namesWith(snapshot: Snapshot, text: string, sites: readonly string[] | null): string[] {
  const wanted = wordsOf(normalName(text));
  if (wanted.length === 0) return [];
  return best(snapshot, sites, (name) => {
    // Most names do not have the letters: only those that do are cut into words.
    if (!wanted.every((word) => name.includes(word))) return null;
    const words = wordsOf(name);
    return wanted.every((word) => words.includes(word)) ? words.length : null;
  });
}

function namesSpeltLike(snapshot: Snapshot, text: string, sites: readonly string[] | null): string[] {
  const wanted = normalName(text);
  const furthest = Math.max(2, Math.floor(wanted.length / 3));
  return best(snapshot, sites, (name) => {
    if (Math.abs(name.length - wanted.length) > furthest) return null;
    const distance = editDistance(name, wanted, furthest);
    return distance > furthest ? null : distance;
  });
}

/** @param farness how far a name is from what was meant; null: it is out of the question */
function best(snapshot: Snapshot, sites: readonly string[] | null, farness: (name: string) => number | null): string[] {
  const nearest = new Map<Named, number>();
  for (const [name, all] of snapshot.byName) {
    const far = farness(name);
    if (far === null) continue;
    for (const named of all) {
      if (sites !== null && !sites.includes(named.site.slug)) continue;
      nearest.set(named, Math.min(far, nearest.get(named) ?? Number.POSITIVE_INFINITY));
    }
  }
  return withoutWider([...nearest])
    .sort((one, other) => one[1] - other[1] || place(one[0]) - place(other[0]))
    .slice(0, MOST_OFFERED)
    .map(([{ address }]) => address);
}

/** A group or scene is offered only where no single channel is as near: whoever asked for one thing does not mean many. */
function withoutWider(nearest: readonly (readonly [Named, number])[]): (readonly [Named, number])[] {
  const single = Math.min(...nearest.map(([named, far]) => ("members" in named ? Number.POSITIVE_INFINITY : far)));
  return nearest.filter(([named, far]) => !("members" in named) || far < single);
}

/** A name or an address, cut at all that is no letter and no digit. */
function wordsOf(name: string): string[] {
  return name.split(/[^\p{L}\p{N}]+/u).filter((word) => word !== "");
}

/** Channels in the order of the schedule, groups and scenes after them. */
function place(named: Named): number {
  return "members" in named ? Number.MAX_SAFE_INTEGER : named.number;
}

/**
 * Edits (insert, delete, replace, swap of neighbours) from one text to the other.
 * Gives up above `furthest`, so that a long list of names stays cheap to compare with.
 */
export function editDistance(one: string, other: string, furthest: number): number {
  let beforeLast: number[] = [];
  let last = Array.from({ length: other.length + 1 }, (_, index) => index);
  for (let i = 1; i <= one.length; i += 1) {
    const row = [i];
    for (let j = 1; j <= other.length; j += 1) row.push(cheapestEdit(one, other, i, j, { beforeLast, last, row }));
    if (Math.min(...row) > furthest) return furthest + 1;
    beforeLast = last;
    last = row;
  }
  return last[other.length] ?? 0;
}

/** The rows of the edit matrix that a cell depends on. */
interface Rows {
  readonly beforeLast: readonly number[];
  readonly last: readonly number[];
  readonly row: readonly number[];
}

function cheapestEdit(one: string, other: string, i: number, j: number, { beforeLast, last, row }: Rows): number {
  const remove = (last[j] ?? 0) + 1;
  const insert = (row[j - 1] ?? 0) + 1;
  const replace = (last[j - 1] ?? 0) + (one[i - 1] === other[j - 1] ? 0 : 1);
  const neighbours = i > 1 && j > 1 && one[i - 1] === other[j - 2] && one[i - 2] === other[j - 1];
  const swap = neighbours ? (beforeLast[j - 2] ?? 0) + 1 : Number.POSITIVE_INFINITY;
  return Math.min(remove, insert, replace, swap);
}
