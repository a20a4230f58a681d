/** A name of a phrase → the one thing that is meant, and what it is asked. */
import type { ChannelEntry } from "../site/entry.ts";
import { type Act, actionFor, actionsInWords } from "./act.ts";
import { type Decided, MOST_CHOICES, nothing, type PhraseAsk, type Reading, Stop } from "./reading.ts";
import type { Span } from "./segmented.ts";
import { isAt, type Place, type Thing, thingName } from "./vocabulary.ts";

/** @throws Stop when the sender must say which, or it cannot be asked this */
export function oneOf(span: Span, places: readonly Place[], act: Act | null, decided: Decided): Thing {
  const meant = decided.get(span.at);
  if (meant !== undefined) {
    const chosen = span.things.find((thing) => addressOf(thing) === meant);
    if (chosen) return chosen;
  }
  const there = span.things.filter((thing) => isIn(thing, places));
  if (there.length === 0) throw new Stop(nothing("nothing-there", span.words, span.things.slice(0, 3).map(thingName)));
  // "dim the hall": only one of those of that name can be dimmed.
  const able = there.filter((thing) => actionOfThing(thing, act) !== null);
  const left = able.length > 0 ? able : there;
  const [first] = left;
  if (left.length > 1 || !first) throw new Stop(whichOf(span, left));
  return first;
}

export function whichOf({ at, words }: Span, things: readonly Thing[]): Reading {
  const choices = things.slice(0, MOST_CHOICES).map((thing) => ({ address: addressOf(thing), name: fullName(thing) }));
  return { reads: "which", at, words, choices };
}

/** Every channel that a name stands for; those of a group are its members. */
export function channelsOf(span: Span, places: readonly Place[], decided: Decided): ChannelEntry[] {
  const thing = oneOf(span, places, null, decided);
  if (thing.is === "channel") return [thing.channel];
  return thing.is === "bundle" ? [...thing.channels] : [];
}

export function askOf(thing: Thing, act: Act | null, forMs: number | null): PhraseAsk {
  const found = actionOfThing(thing, act);
  if (!found) throw new Stop(cannot(thing, act));
  return { target: addressOf(thing), among: null, ...found, forMs };
}

function cannot(thing: Thing, act: Act | null): Reading {
  const can = actionsInWords(thing);
  if (!act) return nothing("no-action", thingName(thing), can);
  return nothing("cannot", thingName(thing), can);
}

function actionOfThing(thing: Thing, act: Act | null) {
  if (thing.is === "place") return null;
  if (thing.is === "channel") return act && actionFor(thing.channel, act);
  const { bundle } = thing;
  if (bundle.kind === "scene") {
    const isPlain = act === null || (act.extent === null && act.number === null && act.colour === null);
    const recalls = isPlain && (act === null || act.verb === null || ["on", "recall"].includes(act.verb));
    return recalls ? { action: "recall", value: null } : null;
  }
  if (!act) return null;
  // Of a group each member is asked the same: what the first can be asked is tried of all.
  return thing.channels.map((channel) => actionFor(channel, act)).find((found) => found !== null) ?? null;
}

function isIn(thing: Thing, places: readonly Place[]): boolean {
  if (places.length === 0 || thing.is === "place") return true;
  if (thing.is === "channel") return places.some((place) => isAt(thing.channel, place));
  return places.some(({ site }) => thing.bundle.site.slug === site);
}

export function addressOf(thing: Thing): string {
  if (thing.is === "channel") return thing.channel.address;
  if (thing.is === "bundle") return thing.bundle.address;
  const { site, room } = thing.place;
  return room === null ? site : `${site}/${room}`;
}

function fullName(thing: Thing): string {
  const site = thing.is === "channel" ? thing.channel.site.name : thing.is === "bundle" ? thing.bundle.site.name : "";
  return `${thingName(thing)}${site === "" ? "" : `, ${site}`}`;
}
