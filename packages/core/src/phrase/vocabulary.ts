/** Every name that a sender may use, as a tree of words: finding the longest name costs as much as it is long. */
import type { ChannelEntry } from "../site/entry.ts";
import type { Bundle, Snapshot } from "../site/snapshot.ts";
import { nameWords, type Token } from "./token.ts";

/** A room, or a whole site: nothing that is switched itself, but a place to look in. */
export interface Place {
  readonly site: string;
  /** null: the whole site. */
  readonly room: string | null;
  readonly name: string;
}

export type Thing =
  | { readonly is: "channel"; readonly channel: ChannelEntry }
  | {
      readonly is: "bundle";
      readonly bundle: Bundle;
      readonly channels: readonly ChannelEntry[];
    }
  | { readonly is: "place"; readonly place: Place };

interface Node {
  readonly next: Map<string, Node>;
  readonly things: Thing[];
}

export interface Vocabulary {
  readonly snapshot: Snapshot;
  readonly sites: readonly string[] | null;
  readonly root: Node;
  /** A word or words of the sender's own → what they stand for, cut into words. */
  readonly synonyms: ReadonlyMap<string, readonly string[]>;
  readonly longestSynonym: number;
  /** Channels within reach, in the order of the schedule. */
  readonly channels: readonly ChannelEntry[];
}

/**
 * @param sites only what belongs to these sites has a name; null: everything
 * @param synonyms what a sender says → what is meant, like "fairy lights" → "porch lantern wren"
 */
export function buildVocabulary(
  snapshot: Snapshot,
  sites: readonly string[] | null,
  synonyms: Readonly<Record<string, string>> = {},
): Vocabulary {
  const root: Node = { next: new Map(), things: [] };
  const reachable = (site: string) => sites === null || sites.includes(site);
  for (const [name, all] of snapshot.byName) {
    const within = all.filter(({ site }) => reachable(site.slug));
    if (within.length > 0)
      put(
        root,
        nameWordsOf(name),
        within.map((named) => thingOf(named, snapshot)),
      );
  }
  const channels = snapshot.channels.filter(({ site }) => reachable(site.slug));
  for (const place of placesOf(channels)) {
    for (const name of new Set([place.name, place.room ?? place.site]))
      put(root, nameWords(name), [{ is: "place", place }]);
  }
  const own = new Map(Object.entries(synonyms).map(([said, meant]) => [nameWords(said).join(" "), nameWords(meant)]));
  const longestSynonym = Math.max(0, ...[...own.keys()].map((said) => said.split(" ").length));
  return { snapshot, sites, root, synonyms: own, longestSynonym, channels };
}

function placesOf(channels: readonly ChannelEntry[]): Place[] {
  const places = new Map<string, Place>();
  for (const { site, room } of channels) {
    places.set(site.slug, { site: site.slug, room: null, name: site.name });
    places.set(`${site.slug}/${room.slug}`, { site: site.slug, room: room.slug, name: room.name });
  }
  return [...places.values()];
}

/** The names of a snapshot are cut up once for all senders. */
const known = new Map<string, readonly string[]>();
const MOST_KNOWN = 50_000;

function nameWordsOf(name: string): readonly string[] {
  const words = known.get(name) ?? nameWords(name);
  if (known.size >= MOST_KNOWN) known.clear();
  known.set(name, words);
  return words;
}

function put(root: Node, words: readonly string[], things: readonly Thing[]): void {
  if (words.length === 0) return;
  let node = root;
  for (const word of words) {
    const next: Node = node.next.get(word) ?? { next: new Map(), things: [] };
    node.next.set(word, next);
    node = next;
  }
  for (const thing of things) if (!node.things.some((one) => sameThing(one, thing))) node.things.push(thing);
}

function sameThing(one: Thing, other: Thing): boolean {
  if (one.is === "channel") return other.is === "channel" && one.channel === other.channel;
  if (one.is === "bundle") return other.is === "bundle" && one.bundle === other.bundle;
  return other.is === "place" && one.place === other.place;
}

function thingOf(named: ChannelEntry | Bundle, { byId }: Snapshot): Thing {
  if (!("members" in named)) return { is: "channel", channel: named };
  const channels = named.members.flatMap(({ channel }) => byId.get(channel) ?? []);
  return { is: "bundle", bundle: named, channels };
}

/** Small words that may stand inside a name without being part of it: "the porch lantern in wren". */
const CONNECTORS = new Set(["in", "at", "of", "the", ","]);

export interface NameFound {
  readonly things: readonly Thing[];
  /** The first token after the name. */
  readonly end: number;
}

/** The longest name that begins at a token; null when none does. */
export function nameAt({ root }: Vocabulary, tokens: readonly Token[], from: number): NameFound | null {
  let node = root;
  let best: NameFound | null = null;
  for (let at = from; at < tokens.length; at += 1) {
    const text = tokens[at]?.text ?? "";
    const next = node.next.get(text);
    if (next) {
      node = next;
      if (node.things.length > 0) best = { things: node.things, end: at + 1 };
    } else if (at === from || !CONNECTORS.has(text) || tokens[at]?.quoted) break;
  }
  return best;
}

/** Whether a channel is in a room, or at a site. */
export function isAt({ site, room }: ChannelEntry, place: Place): boolean {
  return site.slug === place.site && (place.room === null || room.slug === place.room);
}

/** As people say which one is meant: "Porch lantern, Wren". */
export function thingName(thing: Thing): string {
  if (thing.is === "channel") return `${thing.channel.name}, ${thing.channel.room.name}`;
  return thing.is === "bundle" ? thing.bundle.name : thing.place.name;
}
