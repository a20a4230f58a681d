/** Names → channels, groups and scenes: case, stray spaces and commas do not alert; whole names only; nothing is guessed. */

import type { Bundle } from "./bundle.ts";
import type { ChannelEntry } from "./entry.ts";
import { normalName } from "./normal-name.ts";
import type { Snapshot } from "./snapshot.ts";
import { editDistance } from "./spelling.ts";

export type Resolution =
  | { readonly found: ChannelEntry }
  /** The name is that of a group or a scene. */
  | { readonly bundle: Bundle }
  /** Several have this name, these are their addresses: the asker must say which. */
  | { readonly ambiguous: readonly string[] }
  /** Nothing has this name. What comes near takes a search of its own: `nearestNames`, for whoever shows it. */
  | { readonly unknown: string }
  /** The name cannot be one. */
  | { readonly wildcard: string };

/** A channel, or a group or scene. */
type Named = ChannelEntry | Bundle;

/** How many a refusal names at most. */
const MOST_OFFERED = 3;

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
  if (!first) return { unknown: text };
  if (matches.length > 1) return { ambiguous: matches.map(({ address }) => address) };
  return "members" in first ? { bundle: first } : { found: first };
}

/**
 * The addresses of what is called nearly so, best first: what has all these words in its name, then what is spelt nearly like it.
 * Looks through every name there is: some 20 ms for 10 000 channels.
 */
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

/** A name is spelt nearly like another if so many edits at most lie between them, whatever its length. */
const MOST_EDITS = 6;

/** How much work a search for what is spelt alike may be, in cells of the matrix of edits: some 10 ms. What is not compared is not offered. */
const MOST_CELLS = 500_000;

function namesSpeltLike(snapshot: Snapshot, text: string, sites: readonly string[] | null): string[] {
  const wanted = normalName(text);
  const furthest = Math.min(MOST_EDITS, Math.max(2, Math.floor(wanted.length / 3)));
  let left = MOST_CELLS;
  return best(snapshot, sites, (name) => {
    if (left <= 0 || Math.abs(name.length - wanted.length) > furthest) return null;
    const distance = editDistance(name, wanted, furthest, (cells) => {
      left -= cells;
    });
    return distance > furthest ? null : distance;
  });
}

/** @param farness how far a name is from what was meant; null: it is out of the question */
function best(snapshot: Snapshot, sites: readonly string[] | null, farness: (name: string) => number | null): string[] {
  const nearest = new Map<Named, number>();
  for (const [name, all] of snapshot.byName) {
    const there = sites === null ? all : all.filter(({ site }) => sites.includes(site.slug));
    const far = there.length === 0 ? null : farness(name);
    if (far === null) continue;
    for (const named of there) nearest.set(named, Math.min(far, nearest.get(named) ?? Number.POSITIVE_INFINITY));
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
