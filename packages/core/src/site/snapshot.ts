/**
 * The immutable picture of all sites that every request is resolved against. Built once per change
 * of the model and then only read: look-ups by id, address, topic and name cost the same however many channels there are.
 */
import type { KindName } from "../channel/index.ts";
import { type DeliveryPolicy, defaultPolicy } from "../delivery/policy.ts";
import type { ChannelId } from "../id.ts";
import type { Profile } from "./model.ts";
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

/** What a message on a topic is about. */
export type TopicUse =
  | { readonly role: "done" | "is"; readonly channel: ChannelEntry }
  | { readonly role: "here"; readonly device: string; readonly profile: Profile };

export interface Snapshot {
  /** In the order of the schedule. */
  readonly channels: readonly ChannelEntry[];
  readonly byId: ReadonlyMap<ChannelId, ChannelEntry>;
  /** Normalised name or address → every channel that it can mean. */
  readonly byName: ReadonlyMap<string, readonly ChannelEntry[]>;
  readonly byTopic: ReadonlyMap<string, TopicUse>;
  /** MQTT filters that cover every `done`, `is` and `here` topic. */
  readonly filters: readonly string[];
}

/** Builds the snapshot. Records come in schedule order: by site, then number. */
export function buildSnapshot(records: readonly ChannelRecord[]): Snapshot {
  const channels = records.map(entryOf);
  const byName = new Map<string, ChannelEntry[]>();
  const byTopic = new Map<string, TopicUse>();
  const filters = new Set<string>();
  for (const channel of channels) {
    for (const name of namesOf(channel)) byName.set(name, [...(byName.get(name) ?? []), channel]);
    const patterns = channel.profile.topics;
    for (const role of ["done", "is"] as const) {
      const topic = channel.topics[role];
      if (topic !== null) byTopic.set(topic, { role, channel });
    }
    if (patterns.here !== null) {
      const topic = fillTopic(patterns.here, channel);
      byTopic.set(topic, { role: "here", device: channel.device.address, profile: channel.profile });
    }
    for (const pattern of [patterns.done, patterns.is, patterns.here]) {
      if (pattern !== null) filters.add(filterOf(pattern, channel.site.slug));
    }
  }
  return {
    channels,
    byId: new Map(channels.map((channel) => [channel.id, channel])),
    byName,
    byTopic,
    filters: [...filters].sort(),
  };
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
