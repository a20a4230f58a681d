/**
 * The immutable picture of all sites that every request is resolved against. Built once per change
 * of the model and then only read: look-ups by id, address, topic and name cost the same however many channels there are.
 */
import type { ChannelId } from "../id.ts";
import { sourcesOf } from "../state/seen.ts";
import type { Bundle } from "./bundle.ts";
import { disjointFilters } from "./disjoint-filters.ts";
import { answersByTurns, type ChannelEntry, type ChannelRecord, entryOf, fillTopic } from "./entry.ts";
import type { Profile, SiteDescription } from "./model.ts";
import { remembered } from "./remembered.ts";
import { type NamesInSnapshot, namesOfAll, STEP } from "./snapshot-names.ts";

/** What belongs to a site beside its channels; channels are named `device/channel`. */
export type SiteRecord = Pick<SiteDescription, "slug" | "name" | "timeZone" | "groups" | "scenes" | "interlocks"> & {
  /** The shard that its lanes belong to; default 0. */
  readonly shard?: number;
};

/** What is listened to at the broker. */
export type TopicFilters = Pick<Snapshot, "filters" | "doFilters">;

/** Channels of which one at most may be on. */
export interface Interlock {
  readonly name: string;
  readonly channels: readonly ChannelId[];
  readonly gapMs: number;
  readonly meets: "refuse" | "switch-off";
}

/**
 * What a topic is to us: the channels that have it as their command, question, acknowledgement or report topic, and the device
 * whose presence it is. One topic may be several. Several channels share a topic where the payload names the channel, or its
 * answers come by turns.
 */
export interface TopicUse {
  readonly do: readonly ChannelEntry[];
  readonly ask: readonly ChannelEntry[];
  readonly done: readonly ChannelEntry[];
  readonly is: readonly ChannelEntry[];
  /** The device's address. */
  readonly here: { readonly device: string; readonly profile: Profile } | null;
}

export interface Snapshot extends NamesInSnapshot {
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
  readonly byTopic: ReadonlyMap<string, TopicUse>;
  /** By channel those whose state it tells. */
  readonly watchers: ReadonlyMap<ChannelId, readonly ChannelEntry[]>;
  /** MQTT filters that cover every `done`, `is` and `here` topic, and `do` where others are listened for. */
  readonly filters: readonly string[];
  /** MQTT filters that cover every `do` topic. */
  readonly doFilters: readonly string[];
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
  const interlocks = interlocksOf(sites, byAddress);
  yield;
  const topics = yield* topicsOf(channels);
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

/** The filters of some channels only, as a snapshot has them of all. */
export function filtersOf(channels: readonly ChannelEntry[]): TopicFilters {
  const steps = topicsOf(channels);
  for (;;) {
    const { done, value } = steps.next();
    if (done) return { filters: value.filters, doFilters: value.doFilters };
  }
}

const NO_USE: TopicUse = { do: [], ask: [], done: [], is: [], here: null };

function* topicsOf(
  channels: readonly ChannelEntry[],
): Generator<void, Pick<Snapshot, "byTopic" | "filters" | "doFilters">> {
  const byTopic = new Map<string, TopicUse>();
  const filters = new Set<string>();
  const doFilters = new Set<string>();
  const put = (topic: string | null, role: "done" | "is" | "do" | "ask", channel: ChannelEntry) => {
    if (topic === null) return;
    const known = byTopic.get(topic) ?? NO_USE;
    byTopic.set(topic, { ...known, [role]: [...known[role], channel] });
  };
  const listen = (into: Set<string>, pattern: string | null, topic: string | null, site: string) => {
    if (pattern !== null && topic !== null) into.add(filterOf(pattern, topic, site));
  };
  const seen = new Set<string>();
  for (const [index, channel] of channels.entries()) {
    if (index % STEP === 0) yield;
    const { profile, patterns, topics, site, device } = channel;
    put(topics.is, "is", channel);
    put(topics.done, "done", channel);
    put(topics.do, "do", channel);
    put(topics.ask, "ask", channel);
    listen(doFilters, patterns.do, topics.do, site.slug);
    listen(filters, patterns.done, topics.done, site.slug);
    listen(filters, patterns.is, topics.is, site.slug);
    // Of this device only: on the others' command topics the broker shall still tell when nobody listens.
    if (profile.hearOthers && patterns.do !== null)
      listen(filters, patterns.do.replaceAll("{device}", device.slug), topics.do, site.slug);
    // Its presence is the same for all channels of a device.
    if (seen.has(device.address) || patterns.here === null) continue;
    seen.add(device.address);
    const here = fillTopic(patterns.here, channel);
    byTopic.set(here, { ...(byTopic.get(here) ?? NO_USE), here: { device: device.address, profile } });
    listen(filters, patterns.here, here, site.slug);
  }
  const heard = [...byTopic].flatMap(([topic, use]) => (isHeard(use) ? [topic] : []));
  yield;
  return { byTopic, filters: disjointFilters([...filters], heard), doFilters: [...doFilters] };
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

function isHeard(use: TopicUse): boolean {
  const others = use.do.some(({ profile }) => profile.hearOthers === true);
  return use.done.length > 0 || use.is.length > 0 || use.here !== null || others;
}

/** Channels whose answers cannot be told apart share the lane of the first of them. */
function* entriesOf(records: readonly ChannelRecord[]): Generator<void, ChannelEntry[]> {
  const shared = new Map<string, ChannelId>();
  const entries: ChannelEntry[] = [];
  /** How many channels of the same device come before this record. */
  let place = 0;
  for (const [index, record] of records.entries()) {
    place = records[index - 1]?.device.id === record.device.id ? place + 1 : 0;
    entries.push(inLane(entryOf(record, place), record, place, shared));
    if (index % STEP === 0) yield;
  }
  return entries;
}

/** @param shared the lane of each topic whose answers come by turns, by topic */
function inLane(entry: ChannelEntry, record: ChannelRecord, place: number, shared: Map<string, ChannelId>) {
  const { codec, topics, id } = entry;
  if (topics.done === null || !answersByTurns(entry) || codec.namesCommand) return entry;
  const lane = shared.get(topics.done) ?? id;
  shared.set(topics.done, lane);
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

function interlocksOf(sites: readonly SiteRecord[], byAddress: ReadonlyMap<string, ChannelEntry>) {
  const byChannel = new Map<ChannelId, Interlock[]>();
  for (const site of sites) {
    for (const { name, channels, gapMs = 0, meets } of site.interlocks ?? []) {
      const ids = channels.flatMap((path) => byAddress.get(`${site.slug}/${path}`)?.id ?? []);
      const interlock: Interlock = { name, channels: ids.sort((one, other) => one - other), gapMs, meets };
      for (const id of ids) byChannel.set(id, [...(byChannel.get(id) ?? []), interlock]);
    }
  }
  return byChannel;
}

/**
 * `{site}/{device}/{channel}/is` → `alder-row/+/+/is`: one subscription a site instead of one a channel. A pattern without the
 * site in it would cover what belongs to others: then it is the topic itself.
 */
function filterOf(pattern: string, topic: string, site: string): string {
  return pattern.includes("{site}") ? filterFor(`${site} ${pattern}`) : topic;
}

const filterFor = remembered((siteAndPattern: string) => {
  const gap = siteAndPattern.indexOf(" ");
  const levels = siteAndPattern
    .slice(gap + 1)
    .replaceAll("{site}", siteAndPattern.slice(0, gap))
    .split("/");
  return levels.map((level) => (level.includes("{") ? "+" : level)).join("/");
});
