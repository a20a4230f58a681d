/** "Everything in Wren off except the lights": a selection → the channels that are meant, and what each is asked. */
import { kindOf } from "../channel/index.ts";
import type { ChannelId } from "../id.ts";
import type { ChannelEntry } from "../site/entry.ts";
import { actionFor } from "./act.ts";
import { isMeantByAll, placesNamed, sitesOf } from "./everything.ts";
import type { Exception, Wanted } from "./join.ts";
import { type Decided, MOST_CHOICES, nothing, type PhraseAsk, Stop } from "./reading.ts";
import type { Used } from "./segmented.ts";
import { addressOf, askOf, channelsOf, whichOf } from "./target.ts";
import { isAt, type Place, type Thing, thingName, type Vocabulary } from "./vocabulary.ts";

/** The place of a choice that no name of the phrase stands for. */
const SELECTION = -1;
/** The place of the choice how far "everything" reaches. */
const SCOPE = -2;

/**
 * "Everything" without a place of its own, in a phrase that names one elsewhere: it may mean all there is, or all that is there.
 *
 * @throws Stop when the sender must say which
 */
export function withScopes(wanted: readonly Wanted[], vocabulary: Vocabulary, decided: Decided): Wanted[] {
  return wanted.map((one) => {
    if (one.selection?.many !== true || one.places.length > 0 || one.names.length > 0) return one;
    const named = placesNamed(wanted, one);
    if (named.length === 0) return one;
    const scopes = [
      ...named,
      ...sitesOf(vocabulary.channels.filter((one) => named.some(({ site }) => site === one.site.slug))),
    ];
    const meant = scopes.find((place) => addressOf({ is: "place", place }) === decided.get(SCOPE));
    if (meant) return { ...one, places: [meant] };
    const things = scopes.map((place): Thing => ({ is: "place", place }));
    throw new Stop(whichOf({ at: SCOPE, words: one.selection.word, things }, things));
  });
}

/** Every channel of some kinds, or of any, in a room or at a site; or what is named, without what is excepted. */
export function askOfMany(wanted: Wanted, vocabulary: Vocabulary, decided: Decided): PhraseAsk[] {
  const { selection, act, forMs } = wanted;
  const words = wordsForMany(wanted);
  if (selection === null) requireDivisible(wanted, words);
  if (!act) throw new Stop(nothing("no-action", words, ["on", "off"]));
  const all = ableOf(wanted, vocabulary, decided);
  const able =
    selection === null || !selection.many ? all : all.filter((one) => isMeantByAll(one, selection, vocabulary));
  if (able.length === 0) throw new Stop(nothing("nothing-there", words));
  if (act.number !== null && act.numberUnit === null && countDifferently(able))
    throw new Stop(
      nothing(
        "cannot",
        words,
        able.map(({ unit }) => `level … ${unit ?? ""}`.trim()),
      ),
    );
  if (selection?.many === false && able.length > 1) {
    const things = able.map((channel): Thing => ({ is: "channel", channel }));
    const chosen = things.find((thing) => addressOf(thing) === decided.get(SELECTION));
    if (chosen) return [askOf(chosen, act, forMs)];
    throw new Stop(whichOf({ at: SELECTION, words, things }, things));
  }
  const sites = [...new Map(able.map(({ site }) => [site.slug, site.name])).values()];
  if (sites.length > 1) throw new Stop(nothing("several-sites", words, sites));
  // Kinds have their own words for the same wish, "up" is open or brighter: one ask for each.
  const byAction = new Map<string, ChannelEntry[]>();
  for (const channel of able) {
    const { action } = actionFor(channel, act) ?? { action: "" };
    byAction.set(action, [...(byAction.get(action) ?? []), channel]);
  }
  return [...byAction.values()].flatMap((same) => {
    const [one] = same;
    const found = one && actionFor(one, act);
    if (!found) return [];
    if (same.length === 1) return askOf({ is: "channel", channel: one }, act, forMs);
    return { target: words, among: same.map(({ id }) => id), ...found, forMs };
  });
}

/**
 * The channels that are left out by name, of all that is wanted: none of them may be reached by the same wish elsewhere in the phrase.
 */
export function leftOutByName(wanted: readonly Wanted[], decided: Decided): ReadonlySet<ChannelId> {
  const all = wanted.flatMap(({ exceptions, places }) =>
    exceptions.flatMap((one) =>
      one.names.flatMap((span) => channelsOf(span, one.places.length > 0 ? one.places : places, decided)),
    ),
  );
  return new Set(all.map(({ id }) => id));
}

/** A scene is recalled as a whole: its channels differ in what they become. @throws Stop */
function requireDivisible({ names }: Wanted, words: string): void {
  const isScene = (thing: Thing) => thing.is === "bundle" && thing.bundle.kind === "scene";
  if (names.some(({ things }) => things.some(isScene))) throw new Stop(nothing("cannot", words, ["recall"]));
}

/** Channels that are there and can be asked this, without those that are excepted. */
function ableOf({ selection, places, names, exceptions, act }: Wanted, vocabulary: Vocabulary, decided: Decided) {
  const isOutside = exceptions.map((exception) => leavesOut(exception, places, decided));
  const among = names.length > 0 ? names.flatMap((span) => channelsOf(span, places, decided)) : vocabulary.channels;
  const kinds = selection?.kinds ?? null;
  return among.filter(
    (channel) =>
      (kinds === null || kinds.includes(channel.kind)) &&
      (places.length === 0 || places.some((place) => isAt(channel, place))) &&
      !isOutside.some((isOut) => isOut(channel)) &&
      act !== null &&
      actionFor(channel, act) !== null,
  );
}

/** Whether a bare number would mean °C to one and K to another. */
function countDifferently(channels: readonly ChannelEntry[]): boolean {
  const units = channels.map(({ kind, unit }) => (kindOf(kind).range?.ofChannel ? unit : "%"));
  return new Set(units).size > 1;
}

function leavesOut({ names, kinds, places: its }: Exception, places: readonly Place[], decided: Decided) {
  const among = its.length > 0 ? its : places;
  const named = new Set(names.flatMap((span) => channelsOf(span, among, decided)).map(({ id }) => id));
  const isThere = (channel: ChannelEntry) => its.some((place) => isAt(channel, place));
  if (names.length + kinds.length === 0) return isThere;
  return (channel: ChannelEntry) =>
    named.has(channel.id) || (kinds.includes(channel.kind) && (its.length === 0 || isThere(channel)));
}

/** “everything in Wren except Path lights, Wren” */
function wordsForMany({ selection, places, names, exceptions }: Wanted): string {
  const named = names.map(({ words }) => words);
  const where = [...places.map(({ name }) => name), ...(selection === null ? [] : named)];
  const out = exceptions.map(wordsForException);
  const inPlace = where.length === 0 ? "" : ` in ${where.join(" and ")}`;
  const what = selection?.word ?? named.join(" and ");
  return `${what}${inPlace}${out.length === 0 ? "" : ` except ${out.join(" and ")}`}`;
}

/** “the lights in Finch” */
function wordsForException({ names, kinds, places }: Exception): string {
  const things = [...names.map(({ words }) => words), ...kinds].join(" and ");
  const where = places.map(({ name }) => name).join(" and ");
  return things === "" || where === "" ? things + where : `${things} in ${where}`;
}

/** What "everything" does not mean: told, so that nobody takes it for switched. */
export function leftOut(wanted: Wanted, vocabulary: Vocabulary): Used[] {
  const { selection, act } = wanted;
  if (selection?.many !== true || !act) return [];
  const out = ableOf(wanted, vocabulary, new Map()).filter((channel) => !isMeantByAll(channel, selection, vocabulary));
  if (out.length === 0) return [];
  const names = out.slice(0, MOST_CHOICES).map((channel) => thingName({ is: "channel", channel }));
  return [{ words: selection.word, gave: `not ${names.join("; ")}: asked by name only` }];
}
