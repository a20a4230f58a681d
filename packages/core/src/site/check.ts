/**
 * What is wrong with a site's description before it is taken on, and what is doubtful: each with the place and what to
 * do. Forms and ranges of single fields are the schema's alert; this is about what they mean together.
 */

import { type KindName, kindOf, kindOfChannel } from "../channel/index.ts";
import type { ChannelKind } from "../channel/kind.ts";
import type { ChannelBinding } from "../codec/codec.ts";
import { channelFindings } from "./check-channel.ts";
import { namesChannelIn } from "./check-payload.ts";
import { seenByFindings } from "./check-seen.ts";
import { fillTopic, patternsOf } from "./entry.ts";
import type { Finding } from "./finding.ts";
import { anyInTopic, shapesOf, usedBy } from "./in-topic.ts";
import type { ChannelDescription, DeviceDescription, Profile, SiteDescription } from "./model.ts";
import { normalName } from "./normal-name.ts";

/** What stands around the site. */
export interface Surroundings {
  readonly profiles: ReadonlyMap<string, Profile>;
  /** Which device of another site uses a topic; null: none. */
  readonly ownerOf: (topic: string) => string | null;
}

/** Everything that is wrong or doubtful, in the order of the description. */
export function checkSite(site: SiteDescription, around: Surroundings): Finding[] {
  const devices = site.rooms.flatMap((room) => room.devices.map((device) => ({ room, device })));
  const kinds = new Map(
    devices.flatMap(({ device }) => device.channels.map(({ slug, kind }) => [`${device.slug}/${slug}`, kind] as const)),
  );
  return [
    ...devices.flatMap(({ device }) => deviceFindings(site, device, around.profiles.get(device.profile))),
    ...topicFindings(site, around),
    ...seenByFindings(site, kinds),
    ...nameFindings(site),
    ...bundleFindings(site, kinds),
  ];
}

function deviceFindings(site: SiteDescription, device: DeviceDescription, profile: Profile | undefined): Finding[] {
  const at = `devices/${device.slug}`;
  if (!profile) {
    return [
      { level: "wrong", at, text: `names the profile “${device.profile}”, which does not exist. Load it first.` },
    ];
  }
  const seen = new Map<string, string>();
  return [
    ...device.channels.flatMap((channel, place) => {
      const index = channel.index ?? place + (profile.indexFrom ?? 1);
      const topics = patternsOf(profile.topics, device.topics, channel.topics);
      const binding = bindingFor(channel, profile, index);
      return [
        ...channelFindings({ channel, profile, topics, binding, at: `${at}/${channel.slug}` }),
        ...indexFinding(seen, channel, index, at),
      ];
    }),
    ...sharingFindings(site, device, profile),
  ];
}

function bindingFor(channel: ChannelDescription, { indexFrom = 1 }: Profile, index: number): ChannelBinding {
  const { slug, kind, reversed = false, words, calibration, node, range = null } = channel;
  const binding = { slug, index, kind: kindOfChannel({ kind, range }), reversed, place: index - indexFrom };
  return {
    ...binding,
    ...(words ? { words } : {}),
    ...(calibration ? { calibration } : {}),
    ...(node === undefined ? {} : { node }),
  };
}

/** Channels that share a command or report topic must be told apart by the payload. */
function sharingFindings(site: SiteDescription, device: DeviceDescription, profile: Profile): Finding[] {
  const at = `devices/${device.slug}`;
  const owners = new Map<string, string>();
  const named = namesChannelIn(profile.codec);
  return device.channels.flatMap((channel, place) => {
    const patterns = patternsOf(profile.topics, device.topics, channel.topics);
    const where = {
      site,
      device,
      slug: channel.slug,
      index: channel.index ?? place + (profile.indexFrom ?? 1),
    };
    return (["do", "stop", "is"] as const).flatMap((role): Finding[] => {
      const pattern = patterns[role];
      const way = role === "is" ? "is" : "do";
      if (!pattern || named[way] || !usesTopic(role, kindOf(channel.kind))) return [];
      const topic = `${way} ${anyInTopic(fillTopic(pattern, where))}`;
      const other = owners.get(topic) ?? channel.slug;
      owners.set(topic, channel.slug);
      if (other === channel.slug) return [];
      const text = `shares its ${role} topic with ${other}, and the payload does not name the channel. Put {channel} or {index} into the topic or the payload, or give each channel a topic of its own.`;
      return [{ level: "wrong", at: `${at}/${channel.slug}`, text }];
    });
  });
}

function usesTopic(role: "do" | "stop" | "is", { input, actions }: ChannelKind): boolean {
  return role === "is" || (role === "stop" ? "stop" in actions : !input);
}

function indexFinding(
  seen: Map<string, string>,
  { slug, node = "" }: ChannelDescription,
  index: number,
  at: string,
): Finding[] {
  const place = `${node} ${index}`;
  const other = seen.get(place);
  seen.set(place, slug);
  if (other === undefined) return [];
  return [{ level: "wrong", at: `${at}/${slug}`, text: `has number ${index} on the device, like ${other}.` }];
}

/** Topics are unique: whoever shares one with another device hears what is meant for it. */
function topicFindings(site: SiteDescription, { profiles, ownerOf }: Surroundings): Finding[] {
  const owners = new Map<string, string>();
  const found: Finding[] = [];
  const wanted = site.rooms
    .flatMap((room) => room.devices)
    .flatMap((device) => {
      const profile = profiles.get(device.profile);
      return profile ? [...topicsOf(site, device, profile)].map((topic) => ({ topic, device })) : [];
    });
  const among = { byTopic: owners, shapes: shapesOf(wanted.map(({ topic }) => topic)) };
  for (const { topic, device } of wanted) {
    const address = `${site.slug}/${device.slug}`;
    const other = usedBy(among, topic, (owner) => owner !== address) ?? ownerOf(topic);
    owners.set(topic, address);
    if (other === null || other === address) continue;
    const text = `uses the topic ${topic}, which belongs to ${other}.`;
    found.push({ level: "wrong", at: `devices/${device.slug}`, text });
  }
  return found;
}

/** Every topic of its devices. */
export function siteTopics(site: SiteDescription, profiles: ReadonlyMap<string, Profile>): Set<string> {
  const topics = new Set<string>();
  for (const device of site.rooms.flatMap((room) => room.devices)) {
    const profile = profiles.get(device.profile);
    if (profile) for (const topic of topicsOf(site, device, profile)) topics.add(topic);
  }
  return topics;
}

function topicsOf(site: SiteDescription, device: DeviceDescription, profile: Profile): Set<string> {
  const { indexFrom = 1 } = profile;
  const all = new Set<string>();
  device.channels.forEach((channel, place) => {
    const index = channel.index ?? place + indexFrom;
    const where = { site, device, slug: channel.slug, index };
    const patterns = patternsOf(profile.topics, device.topics, channel.topics);
    for (const pattern of Object.values(patterns)) if (pattern) all.add(anyInTopic(fillTopic(pattern, where)));
  });
  return all;
}

function nameFindings(site: SiteDescription): Finding[] {
  const seen = new Map<string, string>();
  const found: Finding[] = [];
  for (const room of site.rooms) {
    for (const device of room.devices) {
      for (const { slug, name } of device.channels) {
        const full = normalName(`${room.name} ${name}`);
        const at = `devices/${device.slug}/${slug}`;
        const other = seen.get(full);
        if (other !== undefined)
          found.push({
            level: "doubt",
            at,
            text: `is called “${name}” in ${room.name}, like ${other}: people cannot tell them apart.`,
          });
        seen.set(full, at);
      }
    }
  }
  return found;
}

function bundleFindings(site: SiteDescription, kinds: ReadonlyMap<string, KindName>): Finding[] {
  const { groups = [], scenes = [], interlocks = [] } = site;
  const inputs = (at: string, channels: readonly string[]): Finding[] =>
    channels
      .filter((channel) => kindOf(kinds.get(channel) ?? "relay").input)
      .map((channel) => ({ level: "wrong", at, text: `holds ${channel}, which nothing can be asked of.` }));
  const neverOff = (at: string, channels: readonly string[]): Finding[] =>
    channels
      .filter((channel) => kindOf(kinds.get(channel) ?? "relay").range?.ofChannel)
      .map((channel) => ({ level: "wrong", at, text: `holds ${channel}, a setpoint, which is never off.` }));
  return [
    ...groups.flatMap(({ slug, channels }) => inputs(`groups/${slug}`, channels)),
    ...interlocks.flatMap(({ name, channels }) => [
      ...inputs(`interlocks/${name}`, channels),
      ...neverOff(`interlocks/${name}`, channels),
    ]),
    ...scenes.flatMap(({ slug, sets }) =>
      sets.flatMap(({ channel, action }): Finding[] => {
        const kind = kindOf(kinds.get(channel) ?? "relay");
        if (Object.hasOwn(kind.actions, action)) return [];
        const takes = Object.keys(kind.actions).join(", ") || "nothing";
        return [
          {
            level: "wrong",
            at: `scenes/${slug}`,
            text: `asks ${channel} for “${action}”; a ${kind.name} takes ${takes}.`,
          },
        ];
      }),
    ),
  ];
}
