/** What a change of descriptions takes from the map and gives to it: which catch reaches which channels no more, or now. */
import type { MapCatch, RelayMap } from "./element.ts";
import { catchName } from "./findings.ts";

export interface ReachChange {
  /** The id of the catch. */
  readonly element: string;
  readonly name: string;
  readonly inlet: string | null;
  /** Addresses of channels. */
  readonly lost: readonly string[];
  readonly gained: readonly string[];
}

export function compareMaps(before: RelayMap, after: RelayMap): ReachChange[] {
  const then = new Map(after.catches.map((caught) => [caught.id, caught]));
  const known = new Set(before.catches.map(({ id }) => id));
  const both = [
    ...before.catches.map((caught) => ({ caught, old: caught, now: then.get(caught.id) ?? null, map: before })),
    ...after.catches
      .filter(({ id }) => !known.has(id))
      .map((caught) => ({ caught, old: null, now: caught, map: after })),
  ];
  return both.flatMap(({ caught, old, now, map }) => {
    const [had, has] = [addressesOf(old), addressesOf(now)];
    const lost = [...had].filter((address) => !has.has(address));
    const gained = [...has].filter((address) => !had.has(address));
    if (lost.length + gained.length === 0) return [];
    return [{ element: caught.id, name: catchName(caught, map), inlet: caught.inlet, lost, gained }];
  });
}

/** What nobody may ask, or what takes nothing just now, reaches nothing less for that: it is described so. */
function addressesOf(caught: MapCatch | null): Set<string> {
  return new Set(caught?.reaches.flatMap(({ target }) => [...target.channels].map(({ address }) => address)));
}
