/**
 * The immutable picture of all sites that every request is resolved against. Built once per change
 * of the model and then only read: look-ups by id, address, topic and name cost the same however many channels there are.
 */
import type { ChannelId } from "../id.ts";
import { sourcesOf } from "../state/seen.ts";
import type { Bundle } from "./bundle.ts";
import { answersByTurns, type ChannelEntry, type ChannelRecord, entryOf, placesIn } from "./entry.ts";
import type { SiteDescription } from "./model.ts";
import { twinsOf } from "./same-output.ts";
import { type NamesInSnapshot, namesOfAll, STEP } from "./snapshot-names.ts";
import { type TopicsInSnapshot, topicsOf } from "./snapshot-topics.ts";

/** What belongs to a site beside its channels; channels are named `device/channel`. */
export type SiteRecord = Pick<SiteDescription, "slug" | "name" | "timeZone" | "groups" | "scenes" | "interlocks"> & {
  /** The shard that its lanes belong to; default 0. */
  readonly shard?: number;
};

/** Channels of which one at most may be on. */
export interface Interlock {
  readonly name: string;
  readonly channels: readonly ChannelId[];
  readonly gapMs: number;
  readonly meets: "refuse" | "switch-off";
}

export interface Snapshot extends NamesInSnapshot, TopicsInSnapshot {
  /** Every site, also one that has no channels. */
  readonly sites: readonly SiteRecord[];
  /** In the order of the schedule. */
  readonly channels: readonly ChannelEntry[];
  readonly byId: ReadonlyMap<ChannelId, ChannelEntry>;
  readonly byAddress: ReadonlyMap<string, ChannelEntry>;
  /** By the device's address, in the order of the schedule. */
  readonly byDevice: ReadonlyMap<string, readonly ChannelEntry[]>;
  readonly bundles: readonly Bundle[];
  /** The interlocks that a channel is part of. */
  readonly interlocks: ReadonlyMap<ChannelId, readonly Interlock[]>;
  /** By channel those whose state it tells. */
  readonly watchers: ReadonlyMap<ChannelId, readonly ChannelEntry[]>;
}

/**
 * Builds the snapshot. Records come in schedule order: by site, then number.
 *
 * @param sites groups, scenes and interlocks; members that are no channel (any more) are left out
 */
export function buildSnapshot(records: readonly ChannelRecord[], sites: readonly SiteRecord[] = []): Snapshot {
  const steps = snapshotSteps(records, sites);
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}

/** The same in many small steps, for whoever has others to serve meanwhile: 10 000 channels take some 300 ms. */
export function* snapshotSteps(
  records: readonly ChannelRecord[],
  sites: readonly SiteRecord[],
): Generator<void, Snapshot> {
  return yield* snapshotOfEntries(yield* entriesOf(records), sites);
}

/**
 * The snapshot after a change of some sites: what it says of the others is taken from the one before, which is half of the work.
 *
 * @param changed of the sites that changed
 * @param records all channels of these
 * @param sites every site, in the order of the schedule
 */
export function* changedSnapshotSteps(
  before: Snapshot,
  changed: readonly string[],
  records: readonly ChannelRecord[],
  sites: readonly SiteRecord[],
): Generator<void, Snapshot> {
  const bySite = new Map<string, ChannelEntry[]>(sites.map(({ slug }) => [slug, []]));
  const changing = new Set(changed);
  for (const entry of before.channels) if (!changing.has(entry.site.slug)) bySite.get(entry.site.slug)?.push(entry);
  yield;
  for (const entry of yield* entriesOf(records)) bySite.get(entry.site.slug)?.push(entry);
  return yield* snapshotOfEntries([...bySite.values()].flat(), sites);
}

/** The snapshot with sites in other shards: nothing else of it is otherwise. @param shards by the slug of the site */
export function inShards(before: Snapshot, shards: ReadonlyMap<string, number>): Snapshot {
  const sites = before.sites.map((site) => ({ ...site, shard: shards.get(site.slug) ?? site.shard ?? 0 }));
  return { ...before, sites };
}

function* snapshotOfEntries(
  channels: readonly ChannelEntry[],
  sites: readonly SiteRecord[],
): Generator<void, Snapshot> {
  const byAddress = new Map(channels.map((channel) => [channel.address, channel]));
  const byId = new Map(channels.map((channel) => [channel.id, channel]));
  yield;
  const bundles = sites.flatMap((site) => bundlesOf(site, byAddress));
  const { byName, names } = yield* namesOfAll(channels, bundles);
  const byDevice = devicesOf(channels);
  const watchers = watchersOf(channels, byAddress);
  yield;
  const topics = yield* topicsOf(channels);
  const interlocks = interlocksOf(sites, byAddress, topics);
  return {
    sites: allSites(sites, channels),
    channels,
    byId,
    byAddress,
    byDevice,
    bundles,
    interlocks,
    byName,
    names,
    watchers,
    ...topics,
  };
}

/** A channel has its site with it: one that is not among the records is a site all the same. */
function allSites(records: readonly SiteRecord[], channels: readonly ChannelEntry[]): SiteRecord[] {
  const sites = new Map(records.map((site) => [site.slug, site]));
  for (const { site } of channels) if (!sites.has(site.slug)) sites.set(site.slug, site);
  return [...sites.values()];
}

function devicesOf(channels: readonly ChannelEntry[]): Map<string, ChannelEntry[]> {
  const byDevice = new Map<string, ChannelEntry[]>();
  for (const channel of channels) {
    const siblings = byDevice.get(channel.device.address);
    if (siblings) siblings.push(channel);
    else byDevice.set(channel.device.address, [channel]);
  }
  return byDevice;
}

function watchersOf(channels: readonly ChannelEntry[], byAddress: ReadonlyMap<string, ChannelEntry>) {
  const watchers = new Map<ChannelId, ChannelEntry[]>();
  for (const channel of channels) {
    for (const path of channel.seenBy ? sourcesOf(channel.seenBy) : []) {
      const source = byAddress.get(`${channel.site.slug}/${path}`);
      if (source) watchers.set(source.id, [...(watchers.get(source.id) ?? []), channel]);
    }
  }
  return watchers;
}

/** Channels whose answers cannot be told apart, or that are told together in one number, share the lane of the first of them. */
function* entriesOf(records: readonly ChannelRecord[]): Generator<void, ChannelEntry[]> {
  const shared = new Map<string, ChannelId>();
  const entries: ChannelEntry[] = [];
  const places = placesIn(records);
  for (const [index, record] of records.entries()) {
    const place = places[index] ?? 0;
    entries.push(inLane(entryOf(record, place), record, place, shared));
    if (index % STEP === 0) yield;
  }
  return entries;
}

/** @param shared the lane of each topic whose answers come by turns, or whose commands tell several channels, by topic */
function inLane(entry: ChannelEntry, record: ChannelRecord, place: number, shared: Map<string, ChannelId>) {
  const { codec, topics, id } = entry;
  const byTurns = topics.done !== null && answersByTurns(entry) && !entry.namesCommand;
  const common = codec.bitOf !== null ? topics.do : byTurns ? topics.done : null;
  if (common === null) return entry;
  const lane = shared.get(common) ?? id;
  shared.set(common, lane);
  return lane === id ? entry : entryOf(record, place, lane);
}

function bundlesOf(site: SiteRecord, byAddress: ReadonlyMap<string, ChannelEntry>): Bundle[] {
  const place = { slug: site.slug, name: site.name };
  const member = (path: string, action: string | null, value: number | string | null) => {
    const channel = byAddress.get(`${site.slug}/${path}`);
    return channel ? [{ channel: channel.id, action, value }] : [];
  };
  const groups = (site.groups ?? []).map(({ slug, name, channels }): Bundle => {
    const members = channels.flatMap((path) => member(path, null, null));
    return { kind: "group", slug, name, address: `${site.slug}/${slug}`, site: place, members };
  });
  const scenes = (site.scenes ?? []).map(({ slug, name, sets }): Bundle => {
    const members = sets.flatMap((set) => member(set.channel, set.action, set.value ?? null));
    return { kind: "scene", slug, name, address: `${site.slug}/${slug}`, site: place, members };
  });
  return [...groups, ...scenes];
}

function interlocksOf(
  sites: readonly SiteRecord[],
  byAddress: ReadonlyMap<string, ChannelEntry>,
  topics: TopicsInSnapshot,
) {
  const byChannel = new Map<ChannelId, Interlock[]>();
  const put = (channel: ChannelId, interlock: Interlock) =>
    byChannel.set(channel, [...(byChannel.get(channel) ?? []), interlock]);
  for (const site of sites) {
    for (const { name, channels, gapMs = 0, meets } of site.interlocks ?? []) {
      const held = channels.flatMap((path) => byAddress.get(`${site.slug}/${path}`) ?? []);
      const ids = held.map(({ id }) => id).sort((one, other) => one - other);
      const interlock: Interlock = { name, channels: ids, gapMs, meets };
      for (const channel of held) {
        put(channel.id, interlock);
        // What moves the same output under another name is held by its partners as well.
        const partners = ids.filter((id) => id !== channel.id);
        for (const { id } of twinsOf(channel, topics))
          if (!ids.includes(id))
            put(id, { ...interlock, channels: [...partners, id].sort((one, other) => one - other) });
      }
    }
  }
  return byChannel;
}
