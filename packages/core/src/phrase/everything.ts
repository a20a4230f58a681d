/** What "everything" and "all" mean: which places limit it, and what is asked by name only. Pure. */
import { kindOf } from "../channel/index.ts";
import type { ChannelEntry } from "../site/entry.ts";
import type { Wanted } from "./join.ts";
import { nameWords } from "./token.ts";
import type { Place, Vocabulary } from "./vocabulary.ts";

/** Places that a phrase names beside this wish: by themselves, or as part of a name: "the porch in Wren". */
export function placesNamed(wanted: readonly Wanted[], one: Wanted): Place[] {
  const excepted = (from: Wanted) => from.exceptions.flatMap(({ names }) => names);
  const spans = [
    ...excepted(one),
    ...wanted.flatMap((other) => (other === one ? [] : [...other.names, ...excepted(other)])),
  ];
  const inNames = spans.flatMap(({ things, words }) =>
    things.flatMap((thing) => (thing.is === "channel" ? placeInName(thing.channel, words) : [])),
  );
  const others = wanted.flatMap((other) => (other === one ? [] : other.places));
  // "except the lights in Wren": they are at Wren, or all of it is meant there. "Except in Wren" asks nothing.
  const narrowed = one.exceptions.flatMap(({ names, kinds, places }) =>
    names.length + kinds.length > 0 ? places : [],
  );
  return distinct([...others, ...narrowed, ...inNames]);
}

function placeInName({ site, room }: ChannelEntry, words: string): Place[] {
  const said = new Set(nameWords(words));
  const isNamed = [room.name, room.slug].some((name) => nameWords(name).every((word) => said.has(word)));
  return isNamed ? [{ site: site.slug, room: room.slug, name: room.name }] : [];
}

export function sitesOf(channels: readonly ChannelEntry[]): Place[] {
  return distinct(channels.map(({ site }) => ({ site: site.slug, room: null, name: site.name })));
}

function distinct(places: readonly Place[]): Place[] {
  return [...new Map(places.map((place) => [`${place.site}/${place.room ?? ""}`, place])).values()];
}

/**
 * Whether "everything" or "all lights" may switch a channel. What its description says counts; without that "everything" leaves
 * out what acts once, what is driven by impulses, held to run, or interlocked.
 */
export function isMeantByAll(
  channel: ChannelEntry,
  selection: Wanted["selection"],
  { snapshot }: Pick<Vocabulary, "snapshot">,
): boolean {
  const { inAll, kind, drive, policy, id } = channel;
  if (inAll !== null) return inAll;
  if (!kindOf(kind).repeatable) return false;
  // Who names a kind means all of it.
  if (selection?.kinds) return true;
  return drive === "set" && policy.holdForMs === null && !snapshot.interlocks.has(id);
}
