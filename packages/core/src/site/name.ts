/** Names → channels: case, stray spaces and commas do not matter; whole names only; nothing is guessed. */
import type { ChannelEntry, Snapshot } from "./snapshot.ts";

export type Resolution =
  | { readonly found: ChannelEntry }
  /** Several channels have this name: the asker must say which. */
  | { readonly ambiguous: readonly ChannelEntry[] }
  /** No channel has this name; the nearest addresses, best first. */
  | { readonly unknown: string; readonly nearest: readonly ChannelEntry[] }
  /** The name cannot be one. */
  | { readonly wildcard: string };

/** How many channels a refusal names at most. */
const MOST_OFFERED = 3;

/** @example normalName("  Porch  LANTERN, Wren ") // → "porch lantern wren" */
export function normalName(text: string): string {
  return text.normalize("NFKC").toLowerCase().replaceAll(",", " ").replace(/\s+/gu, " ").trim();
}

/**
 * Finds the channel that a text names, within one site or all.
 *
 * @param site only channels of this site are found, and only they are offered
 */
export function resolveName(snapshot: Snapshot, text: string, site: string | null): Resolution {
  const wildcard = /[+#$]/u.exec(text);
  if (wildcard) return { wildcard: wildcard[0] };
  const wanted = normalName(text);
  const reachable = (channel: ChannelEntry) => site === null || channel.site.slug === site;
  const matches = (snapshot.byName.get(wanted) ?? []).filter(reachable);
  const [first] = matches;
  if (first && matches.length === 1) return { found: first };
  if (first) return { ambiguous: matches };
  return { unknown: text, nearest: nearestChannels(snapshot, wanted, site) };
}

function nearestChannels(snapshot: Snapshot, wanted: string, site: string | null): ChannelEntry[] {
  const furthest = Math.max(2, Math.floor(wanted.length / 3));
  const best = new Map<ChannelEntry, number>();
  for (const [name, channels] of snapshot.byName) {
    if (Math.abs(name.length - wanted.length) > furthest) continue;
    const distance = editDistance(name, wanted, furthest);
    if (distance > furthest) continue;
    for (const channel of channels) {
      if (site !== null && channel.site.slug !== site) continue;
      best.set(channel, Math.min(distance, best.get(channel) ?? Number.POSITIVE_INFINITY));
    }
  }
  return [...best]
    .sort((one, other) => one[1] - other[1] || one[0].number - other[0].number)
    .slice(0, MOST_OFFERED)
    .map(([channel]) => channel);
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
