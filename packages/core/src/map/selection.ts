/** A part of the map: what leads to an element, and what it leads to. */
import type { ChannelEntry } from "../site/entry.ts";
import type { MapAsker, MapCatch, MapTarget, Reach, RelayMap } from "./element.ts";
import { askerLevels, catchLevels, channelLevels, type Levels, targetLevels } from "./group.ts";

/** One thing that a catch does. */
export interface ReachLink {
  readonly caught: MapCatch;
  readonly reach: Reach;
  /** Those of the catch's askers that are looked at. */
  readonly askers: readonly MapAsker[];
  /** Those of the target's channels that are looked at. */
  readonly channels: readonly ChannelEntry[];
}

export interface MapSelection {
  readonly links: readonly ReachLink[];
  /** Catches that reach nothing: routes that ignore what they catch, or name nothing. */
  readonly idle: readonly MapCatch[];
}

/**
 * @param id of an element or a group of them, see `group.ts`; null: everything
 * @param within sites whose channels are looked at; null: every one
 * @returns null when nothing has this id
 */
export function selectAround(map: RelayMap, id: string | null, within: readonly string[] | null): MapSelection | null {
  const chosen = chosenBy(map, id);
  if (chosen === null) return null;
  const { catches } = chosen;
  const looked = map.catches.filter((caught) => catches === null || catches.has(caught));
  const links = looked.flatMap((caught) => linksOf(caught, chosen, within));
  const isIdle = ({ reaches, askers }: MapCatch) =>
    reaches.length === 0 && chosen.targets === null && chosen.channels === null && someOf(askers, chosen).length > 0;
  return { links, idle: looked.filter(isIdle) };
}

/** What is looked at of each kind; null: all of it. */
interface Chosen {
  /** Ids: askers of two catches are the same one, with another note. */
  readonly askers: ReadonlySet<string> | null;
  readonly catches: ReadonlySet<MapCatch> | null;
  readonly targets: ReadonlySet<MapTarget> | null;
  readonly channels: ReadonlySet<ChannelEntry> | null;
}

const ALL: Chosen = { askers: null, catches: null, targets: null, channels: null };

function chosenBy(map: RelayMap, id: string | null): Chosen | null {
  if (id === null) return ALL;
  const is = (levels: Levels) => levels.some((level) => level.id === id);
  const channels = map.channels.filter((channel) => is(channelLevels(channel)));
  // A channel is also a target by itself: whoever chooses it means everything that reaches it.
  if (channels.length > 0) return { ...ALL, channels: new Set(channels) };
  const askers = map.askers.filter((asker) => is(askerLevels(asker, map)));
  if (askers.length > 0) return { ...ALL, askers: new Set(askers.map((asker) => asker.id)) };
  const catches = map.catches.filter((caught) => is(catchLevels(caught, map)));
  if (catches.length > 0) return { ...ALL, catches: new Set(catches) };
  const targets = map.targets.filter((target) => is(targetLevels(target)));
  return targets.length > 0 ? { ...ALL, targets: new Set(targets) } : null;
}

function someOf(askers: readonly MapAsker[], chosen: Chosen): readonly MapAsker[] {
  return askers.filter(({ id }) => chosen.askers === null || chosen.askers.has(id));
}

function linksOf(caught: MapCatch, chosen: Chosen, within: readonly string[] | null): ReachLink[] {
  const askers = someOf(caught.askers, chosen);
  if (chosen.askers !== null && askers.length === 0) return [];
  return caught.reaches.flatMap((reach): ReachLink[] => {
    const { target } = reach;
    if (chosen.targets !== null && !chosen.targets.has(target)) return [];
    const reached = chosen.channels === null ? [...target.channels] : intersection(chosen.channels, target.channels);
    const channels = reached.filter(({ site }) => within === null || within.includes(site.slug));
    return channels.length === 0 ? [] : [{ caught, reach, askers, channels }];
  });
}

function intersection(few: ReadonlySet<ChannelEntry>, all: ReadonlySet<ChannelEntry>): ChannelEntry[] {
  const [smaller, larger] = few.size < all.size ? [few, all] : [all, few];
  return [...smaller].filter((one) => larger.has(one));
}
