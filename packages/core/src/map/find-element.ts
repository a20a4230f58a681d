/** An element of the map by what people call it. */
import { covers } from "../site/filter.ts";
import { nearestNames, resolveName } from "../site/name.ts";
import type { Snapshot } from "../site/snapshot.ts";
import { channelTargetId, type RelayMap } from "./element.ts";
import { askerLevels, catchLevels, channelLevels, type ElementGroup, type Levels, targetLevels } from "./group.ts";

/** `nearest`: what is called nearly so; addresses. */
export type FoundElement = { readonly element: ElementGroup } | { readonly nearest: readonly string[] };

/**
 * Finds what a text names: the id of an element or a group of them, a channel, a group or a scene by any of its names, an inlet by its
 * identifier or name, a route by a topic that it catches, a member by name.
 *
 * @param sites where names are looked for; null: everywhere
 * @example findElement(map, snapshot, "drive gate", null) // → { element: { id: "channel:alder-row/plover/gate", … } }
 */
export function findElement(
  map: RelayMap,
  snapshot: Snapshot,
  text: string,
  sites: readonly string[] | null,
): FoundElement {
  const wanted = text.trim();
  for (const id of [wanted, ...idsOf(map, snapshot, wanted, sites)]) {
    const element = elementOf(map, id);
    if (element) return { element };
  }
  const resolved = resolveName(snapshot, wanted, sites);
  return { nearest: "ambiguous" in resolved ? resolved.ambiguous : nearestNames(snapshot, wanted, sites) };
}

/** The ids that a name may stand for, the likeliest first. */
function idsOf(map: RelayMap, snapshot: Snapshot, text: string, sites: readonly string[] | null): string[] {
  const same = (name: string) => name.toLowerCase() === text.toLowerCase();
  const resolved = resolveName(snapshot, text, sites);
  const inlets = [...map.inlets]
    .filter(([slug, { name }]) => same(slug) || same(name))
    .map(([slug]) => `inlet:${slug}`);
  const members = map.askers.filter(({ kind, name }) => kind === "member" && same(name)).map(({ id }) => id);
  const routes = map.catches.filter(({ topic }) => topic !== null && text.includes("/") && covers(topic, text));
  const places = snapshot.sites.filter(({ slug, name }) => same(slug) || same(name)).map(({ slug }) => `place:${slug}`);
  return [
    ...("found" in resolved ? [channelTargetId(resolved.found.address), `input:${resolved.found.address}`] : []),
    ...("bundle" in resolved ? [`${resolved.bundle.kind}:${resolved.bundle.address}`] : []),
    ...inlets,
    ...routes.map(({ id }) => id),
    ...members,
    ...places,
  ];
}

function elementOf(map: RelayMap, id: string): ElementGroup | null {
  const within = (levels: Levels) => levels.find((level) => level.id === id);
  for (const channel of map.channels) {
    const found = within(channelLevels(channel));
    if (found) return found;
  }
  for (const asker of map.askers) {
    const found = within(askerLevels(asker, map));
    if (found) return found;
  }
  for (const caught of map.catches) {
    const found = within(catchLevels(caught, map));
    if (found) return found;
  }
  for (const target of map.targets) {
    const found = within(targetLevels(target));
    if (found) return found;
  }
  return null;
}
