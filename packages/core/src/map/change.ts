/** What a change of descriptions takes from the map and gives to it: which catch reaches which channels no more, or now. */
import { fillTopic } from "../site/entry.ts";
import type { Profile } from "../site/model.ts";
import type { Snapshot } from "../site/snapshot.ts";
import type { MapCatch, RelayMap } from "./element.ts";
import { catchName } from "./findings.ts";

export interface ReachChange {
  /** The id of the catch. */
  readonly element: string;
  readonly name: string;
  readonly inlet: string | null;
  /** Addresses of channels, the first of them. */
  readonly lost: readonly string[];
  readonly gained: readonly string[];
  /** How many there are in all. */
  readonly lostCount: number;
  readonly gainedCount: number;
}

/** So many addresses are listed of each. */
const MOST_LISTED = 20;

/** Routes are the same while they catch the same, wherever they stand among the others. */
export function compareMaps(before: RelayMap, after: RelayMap): ReachChange[] {
  const [old, now] = [byCatch(before), byCatch(after)];
  return [...new Set([...old.keys(), ...now.keys()])].flatMap((key): ReachChange[] => {
    const [had, has] = [addressesOf(old.get(key)), addressesOf(now.get(key))];
    const lost = [...had].filter((address) => !has.has(address));
    const gained = [...has].filter((address) => !had.has(address));
    const [caught] = now.get(key) ?? old.get(key) ?? [];
    if (!caught || lost.length + gained.length === 0) return [];
    return [
      {
        element: caught.id,
        name: catchName(caught, now.has(key) ? after : before),
        inlet: caught.inlet,
        lost: lost.slice(0, MOST_LISTED),
        gained: gained.slice(0, MOST_LISTED),
        lostCount: lost.length,
        gainedCount: gained.length,
      },
    ];
  });
}

/**
 * Which command topics a change of a profile leaves, and which it takes up instead. A channel or device with a topic of its own keeps that.
 *
 * @param snapshot as it is: what uses the profile before
 */
export function profileChange(before: Profile, after: Profile, snapshot: Snapshot): ReachChange[] {
  if (before.topics.do === after.topics.do) return [];
  const moved = snapshot.channels.filter(
    ({ profile, patterns, topics }) =>
      profile.slug === before.slug && topics.do !== null && patterns.do === before.topics.do,
  );
  const lost = [...new Set(moved.flatMap(({ topics }) => topics.do ?? []))];
  const pattern = after.topics.do;
  const gained = pattern === null ? [] : [...new Set(moved.map((channel) => fillTopic(pattern, channel)))];
  if (lost.length + gained.length === 0) return [];
  return [
    {
      element: `profile:${after.slug}`,
      name: `Commands by the profile ${after.name}`,
      inlet: null,
      lost: lost.slice(0, MOST_LISTED),
      gained: gained.slice(0, MOST_LISTED),
      lostCount: lost.length,
      gainedCount: gained.length,
    },
  ];
}

function byCatch({ catches }: RelayMap): Map<string, MapCatch[]> {
  const known = new Map<string, MapCatch[]>();
  for (const caught of catches) {
    const key = caught.route === null ? caught.id : (caught.way ?? caught.id);
    known.set(key, [...(known.get(key) ?? []), caught]);
  }
  return known;
}

/** What nobody may ask, or what takes nothing just now, reaches nothing less for that: it is described so. */
function addressesOf(catches: readonly MapCatch[] = []): Set<string> {
  const reaches = catches.flatMap((caught) => caught.reaches);
  return new Set(reaches.flatMap(({ target }) => [...target.channels].map(({ address }) => address)));
}

/**
 * A change in words, a line for what is lost and one for what is gained.
 *
 * @example reachLines({ name: "Route 1 of hall", lost: ["a/b/c"], lostCount: 3, … }) // → ["Route 1 of hall no longer reaches a/b/c and 2 more."]
 */
export function reachLines({ name, lost, gained, lostCount, gainedCount }: ReachChange): string[] {
  const listed = (addresses: readonly string[], count: number) => {
    const more = count - addresses.length;
    return `${addresses.join(", ")}${more > 0 ? ` and ${more} more` : ""}`;
  };
  return [
    ...(lostCount > 0 ? [`${name} no longer reaches ${listed(lost, lostCount)}.`] : []),
    ...(gainedCount > 0 ? [`${name} now reaches ${listed(gained, gainedCount)}.`] : []),
  ];
}
