/**
 * The immutable picture of all sites that every request is resolved against. Built once per change
 * of the model and then only read: look-ups by id, address, topic and name cost the same however many channels there are.
 */
import type { KindName } from "../channel/index.ts";
import { codecs } from "../codec/index.ts";
import { type DeliveryPolicy, defaultPolicy } from "../delivery/policy.ts";
import type { ChannelId } from "../id.ts";
import type { Profile, SiteDescription } from "./model.ts";
import { normalName } from "./name.ts";

/** One channel with everything that stands around it. */
export interface ChannelEntry {
  readonly id: ChannelId;
  /** Its number in the site's schedule of circuits, from 1. */
  readonly number: number;
  readonly slug: string;
  readonly name: string;
  readonly kind: KindName;
  /** `site/device/channel`, unique everywhere. */
  readonly address: string;
  readonly site: { readonly slug: string; readonly name: string };
  readonly room: { readonly slug: string; readonly name: string };
  readonly device: { readonly id: number; readonly slug: string; readonly name: string; readonly address: string };
  readonly profile: Profile;
  readonly policy: DeliveryPolicy;
  /** The lane that its commands go through; several channels may share one. */
  readonly lane: ChannelId;
  readonly topics: { readonly do: string; readonly done: string | null; readonly is: string | null };
}

/** A channel as the journal's model tables hold it. */
export interface ChannelRecord {
  readonly id: ChannelId;
  readonly number: number;
  readonly slug: string;
  readonly name: string;
  readonly kind: KindName;
  readonly delivery: Partial<DeliveryPolicy>;
  readonly site: { readonly slug: string; readonly name: string };
  readonly room: { readonly slug: string; readonly name: string };
  /** `id`: the journal's number of the device. */
  readonly device: { readonly id: number; readonly slug: string; readonly name: string };
  readonly profile: Profile;
}

/** What belongs to a site beside its channels; channels are named `device/channel`. */
export type SiteRecord = Pick<SiteDescription, "slug" | "name" | "groups" | "scenes" | "interlocks">;

/** A group or a scene: one name for several channels. */
export interface Bundle {
  readonly kind: "group" | "scene";
  readonly slug: string;
  readonly name: string;
  /** `site/slug`. */
  readonly address: string;
  readonly site: { readonly slug: string; readonly name: string };
  /** Of a group the action is null: it is what is asked. */
  readonly members: readonly {
    readonly channel: ChannelId;
    readonly action: string | null;
    readonly value: number | null;
  }[];
}

/** Channels of which one at most may be on. */
export interface Interlock {
  readonly name: string;
  readonly channels: readonly ChannelId[];
  readonly gapMs: number;
  readonly meets: "refuse" | "switch-off";
}

/** What a message on a topic is about. */
export type TopicUse =
  /** `device`: its channels answer on one topic; the answer tells by its id, or by its turn, whose it is. */
  | { readonly role: "done"; readonly channel: ChannelEntry; readonly device: boolean }
  | { readonly role: "is" | "do"; readonly channel: ChannelEntry }
  | { readonly role: "here"; readonly device: string; readonly profile: Profile };

export interface Snapshot {
  /** In the order of the schedule. */
  readonly channels: readonly ChannelEntry[];
  readonly byId: ReadonlyMap<ChannelId, ChannelEntry>;
  readonly byAddress: ReadonlyMap<string, ChannelEntry>;
  /** By the device's address, in the order of the schedule. */
  readonly byDevice: ReadonlyMap<string, readonly ChannelEntry[]>;
  readonly bundles: readonly Bundle[];
  /** The interlocks that a channel is part of. */
  readonly interlocks: ReadonlyMap<ChannelId, readonly Interlock[]>;
  /** Normalised name or address → everything that it can mean. */
  readonly byName: ReadonlyMap<string, readonly (ChannelEntry | Bundle)[]>;
  readonly byTopic: ReadonlyMap<string, TopicUse>;
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
  const channels = withLanes(records.map(entryOf));
  const byAddress = new Map(channels.map((channel) => [channel.address, channel]));
  const bundles = sites.flatMap((site) => bundlesOf(site, byAddress));
  const byName = new Map<string, (ChannelEntry | Bundle)[]>();
  const put = (name: string, named: ChannelEntry | Bundle) => {
    const known = byName.get(name);
    if (known) known.push(named);
    else byName.set(name, [named]);
  };
  const byDevice = new Map<string, ChannelEntry[]>();
  for (const channel of channels) {
    for (const name of namesOf(channel)) put(name, channel);
    const siblings = byDevice.get(channel.device.address);
    if (siblings) siblings.push(channel);
    else byDevice.set(channel.device.address, [channel]);
  }
  for (const bundle of bundles) {
    const { name, address, site } = bundle;
    for (const text of new Set([name, `${site.name} ${name}`, address].map(normalName))) put(text, bundle);
  }
  return {
    channels,
    byId: new Map(channels.map((channel) => [channel.id, channel])),
    byAddress,
    byDevice,
    bundles,
    interlocks: interlocksOf(sites, byAddress),
    byName,
    ...topicsOf(channels),
  };
}

function topicsOf(channels: readonly ChannelEntry[]): Pick<Snapshot, "byTopic" | "filters" | "doFilters"> {
  const byTopic = new Map<string, TopicUse>();
  const filters = new Set<string>();
  const doFilters = new Set<string>();
  for (const channel of channels) {
    const { profile, topics, site, device } = channel;
    const patterns = profile.topics;
    if (topics.is !== null) byTopic.set(topics.is, { role: "is", channel });
    if (topics.done !== null && !byTopic.has(topics.done)) {
      byTopic.set(topics.done, { role: "done", channel, device: !patterns.done?.includes("{channel}") });
    }
    byTopic.set(topics.do, { role: "do", channel });
    if (patterns.here !== null) {
      byTopic.set(fillTopic(patterns.here, channel), { role: "here", device: device.address, profile });
    }
    doFilters.add(filterOf(patterns.do, site.slug));
    for (const pattern of [patterns.done, patterns.is, patterns.here]) {
      if (pattern !== null) filters.add(filterOf(pattern, site.slug));
    }
    // Of this device only: on the others' command topics the broker shall still tell when nobody listens.
    if (profile.hearOthers) filters.add(filterOf(patterns.do.replaceAll("{device}", device.slug), site.slug));
  }
  return { byTopic, filters: [...filters].sort(), doFilters: [...doFilters].sort() };
}

/** Channels whose answers cannot be told apart share the lane of the first of them. */
function withLanes(channels: readonly ChannelEntry[]): ChannelEntry[] {
  const shared = new Map<string, ChannelId>();
  return channels.map((channel) => {
    const { done } = channel.topics;
    if (
      done === null ||
      channel.profile.topics.done?.includes("{channel}") ||
      codecs[channel.profile.codec].namesCommand
    )
      return channel;
    const lane = shared.get(done) ?? channel.id;
    shared.set(done, lane);
    return { ...channel, lane };
  });
}

function bundlesOf(site: SiteRecord, byAddress: ReadonlyMap<string, ChannelEntry>): Bundle[] {
  const place = { slug: site.slug, name: site.name };
  const member = (path: string, action: string | null, value: number | null) => {
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

function entryOf(record: ChannelRecord): ChannelEntry {
  const device = { ...record.device, address: `${record.site.slug}/${record.device.slug}` };
  const place = { site: record.site, device, slug: record.slug };
  const { profile, delivery, ...rest } = record;
  return {
    ...rest,
    device,
    address: `${device.address}/${record.slug}`,
    profile,
    lane: record.id,
    policy: Object.freeze({ ...defaultPolicy, ...profile.delivery, ...delivery }),
    topics: {
      do: fillTopic(profile.topics.do, place),
      done: profile.topics.done === null ? null : fillTopic(profile.topics.done, place),
      is: profile.topics.is === null ? null : fillTopic(profile.topics.is, place),
    },
  };
}

interface TopicPlace {
  readonly site: { readonly slug: string };
  readonly device: { readonly slug: string };
  readonly slug: string;
}

/** `{site}/{device}/{channel}/do` → `alder-row/finch/porch/do` */
function fillTopic(pattern: string, place: TopicPlace): string {
  return pattern
    .replaceAll("{site}", place.site.slug)
    .replaceAll("{device}", place.device.slug)
    .replaceAll("{channel}", place.slug);
}

/** `{site}/{device}/{channel}/is` → `alder-row/+/+/is`: one subscription a site instead of one a channel. */
function filterOf(pattern: string, site: string): string {
  const levels = pattern.replaceAll("{site}", site).split("/");
  return levels.map((level) => (level.includes("{") ? "+" : level)).join("/");
}

/** Every way in which people may call a channel. Those that several share are ambiguous, and said to be so. */
function namesOf(channel: ChannelEntry): Set<string> {
  const { name, room, site, device, address, slug } = channel;
  return new Set(
    [
      address,
      `${device.slug}/${slug}`,
      name,
      `${room.name} ${name}`,
      `${name} ${room.name}`,
      `${site.name} ${room.name} ${name}`,
      `${site.name} ${name}`,
    ].map(normalName),
  );
}
