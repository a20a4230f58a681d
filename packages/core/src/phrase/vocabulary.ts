/** Every name that a sender may use, and the longest of them that begins at a word. */

import type { Bundle } from "../site/bundle.ts";
import type { ChannelEntry } from "../site/entry.ts";
import { NAME_ROOT, type NameNode, NameTree } from "../site/name-tree.ts";
import type { Snapshot } from "../site/snapshot.ts";
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

export interface Vocabulary {
  readonly snapshot: Snapshot;
  readonly sites: readonly string[] | null;
  /** Names of the sites within reach. Of others nothing is known, not even how their names begin. */
  readonly trees: readonly NameTree<ChannelEntry | Bundle>[];
  readonly places: NameTree<Place>;
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
  const trees = [...snapshot.names].flatMap(([site, tree]) => (sites === null || sites.includes(site) ? tree : []));
  const channels = snapshot.channels.filter(({ site }) => sites === null || sites.includes(site.slug));
  const places = new NameTree<Place>();
  for (const place of placesOf(channels))
    for (const name of [place.name, place.room ?? place.site]) places.put(nameWords(name), place);
  const own = new Map(Object.entries(synonyms).map(([said, meant]) => [nameWords(said).join(" "), nameWords(meant)]));
  const longestSynonym = Math.max(0, ...[...own.keys()].map((said) => said.split(" ").length));
  return { snapshot, sites, trees, places, synonyms: own, longestSynonym, channels };
}

function placesOf(channels: readonly ChannelEntry[]): Place[] {
  const places = new Map<string, Place>();
  let before: ChannelEntry | null = null;
  for (const channel of channels) {
    const { site, room } = channel;
    // Most stand in the room of the one before.
    if (before?.site.slug === site.slug && before.room.slug === room.slug) continue;
    before = channel;
    places.set(site.slug, { site: site.slug, room: null, name: site.name });
    places.set(`${site.slug}/${room.slug}`, { site: site.slug, room: room.slug, name: room.name });
  }
  return [...places.values()];
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

/** A walk through one tree, as far as the words have led. */
interface Walk<Named> {
  readonly tree: NameTree<Named>;
  readonly node: NameNode;
}

/** The longest name that begins at a token; null when none does. */
export function nameAt(vocabulary: Vocabulary, tokens: readonly Token[], from: number): NameFound | null {
  let named = vocabulary.trees.map((tree) => ({ tree, node: NAME_ROOT }));
  let places = [{ tree: vocabulary.places, node: NAME_ROOT }];
  let best: NameFound | null = null;
  for (let at = from; at < tokens.length; at += 1) {
    const text = tokens[at]?.text ?? "";
    const [namedNext, placesNext] = [walked(named, text), walked(places, text)];
    if (namedNext.length + placesNext.length > 0) {
      [named, places] = [namedNext, placesNext];
      const things = thingsAt(named, places, vocabulary);
      if (things.length > 0) best = { things, end: at + 1 };
    } else if (at === from || !CONNECTORS.has(text) || tokens[at]?.quoted) break;
  }
  return best;
}

function walked<Named>(walks: readonly Walk<Named>[], word: string): Walk<Named>[] {
  return walks.flatMap(({ tree, node }) => {
    const next = tree.next(node, word);
    return next === null ? [] : { tree, node: next };
  });
}

function thingsAt(
  named: readonly Walk<ChannelEntry | Bundle>[],
  places: readonly Walk<Place>[],
  { snapshot }: Vocabulary,
): Thing[] {
  return [
    ...named.flatMap(({ tree, node }) => tree.at(node).map((one) => thingOf(one, snapshot))),
    ...places.flatMap(({ tree, node }) => tree.at(node).map((place): Thing => ({ is: "place", place }))),
  ];
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
