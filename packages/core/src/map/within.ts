/** The map as somebody sees it who may see some sites only: nothing of what belongs to others, or to the whole team. */
import type { RelayMap } from "./element.ts";

/** @param sites null: every one, and what belongs to the whole team */
export function mapWithin(map: RelayMap, sites: readonly string[] | null): RelayMap {
  if (sites === null) return map;
  const catches = map.catches.filter(({ site, kind }) => kind === "rule" || (site !== null && sites.includes(site)));
  const seen = new Set(catches);
  const askers = new Set(catches.flatMap((caught) => caught.askers.map(({ id }) => id)));
  const targets = new Set(catches.flatMap(({ reaches }) => reaches.map(({ target }) => target)));
  return {
    inlets: new Map([...map.inlets].filter(([, { site }]) => site !== null && sites.includes(site))),
    askers: map.askers.filter(({ id }) => askers.has(id)),
    catches,
    targets: map.targets.filter((target) => targets.has(target)),
    channels: map.channels.filter(({ site }) => sites.includes(site.slug)),
    lost: map.lost.filter(({ catch: caught }) => seen.has(caught)),
  };
}
