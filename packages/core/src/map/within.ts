/** The map as somebody sees it: nothing of sites that they may not see, and no names of keys where they are no engineer. */
import type { MapAsker, MapCatch, RelayMap } from "./element.ts";

/**
 * @param sites that may be seen; null: every one, and what belongs to the whole team
 * @param built sites at which keys may be seen; null: everywhere
 */
export function mapWithin(map: RelayMap, sites: readonly string[] | null, built: readonly string[] | null): RelayMap {
  const seen = map.catches.filter(({ site, kind }) => kind === "rule" || isWithin(site, sites));
  const catches = seen.map((caught) => (isWithin(caught.site, built) ? caught : withoutKeyNames(caught)));
  const askers = new Map<string, MapAsker>();
  for (const { askers: all } of catches)
    for (const asker of all) if (!askers.has(asker.id)) askers.set(asker.id, asker);
  const targets = new Set(catches.flatMap(({ reaches }) => reaches.map(({ target }) => target)));
  const ids = new Set(catches.map(({ id }) => id));
  return {
    inlets: new Map([...map.inlets].filter(([, { site }]) => isWithin(site, sites))),
    askers: [...askers.values()],
    catches,
    targets: map.targets.filter((target) => targets.has(target)),
    channels: map.channels.filter(({ site }) => isWithin(site.slug, sites)),
    lost: map.lost.filter(({ catch: caught }) => ids.has(caught.id)),
  };
}

function isWithin(site: string | null, sites: readonly string[] | null): boolean {
  return sites === null || (site !== null && sites.includes(site));
}

/** That there are keys is told: without them it would look as if nobody could ask. */
function withoutKeyNames(caught: MapCatch): MapCatch {
  const named = caught.askers.filter(({ kind }) => kind !== "key" && kind !== "holder");
  if (named.length === caught.askers.length) return caught;
  const keys: MapAsker = {
    id: `keys:${caught.inlet ?? "members"}`,
    kind: caught.inlet === null ? "key" : "holder",
    name: caught.inlet === null ? "Keys of members" : "Keys",
    note: "shown to engineers",
    inlet: caught.inlet,
    anybody: false,
  };
  return { ...caught, askers: [...named, keys] };
}
