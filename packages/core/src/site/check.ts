/**
 * What is wrong with a site's description before it is taken on, and what is doubtful: each with the place and what to
 * do. Forms and ranges of single fields are the schema's alert; this is about what they mean together.
 */

import { type KindName, kindOf, kindOfChannel } from "../channel/index.ts";
import type { ChannelBinding } from "../codec/codec.ts";
import { channelFindings } from "./check-channel.ts";
import { seenByFindings } from "./check-seen.ts";
import { type Surroundings, topicFindings } from "./check-topics.ts";
import { patternsOf } from "./entry.ts";
import type { Finding } from "./finding.ts";
import type { ChannelDescription, DeviceDescription, Profile, SiteDescription } from "./model.ts";
import { normalName } from "./normal-name.ts";

/** Everything that is wrong or doubtful, in the order of the description. */
export function checkSite(site: SiteDescription, around: Surroundings): Finding[] {
  const devices = site.rooms.flatMap((room) => room.devices.map((device) => ({ room, device })));
  const kinds = new Map(
    devices.flatMap(({ device }) => device.channels.map(({ slug, kind }) => [`${device.slug}/${slug}`, kind] as const)),
  );
  return [
    ...devices.flatMap(({ device }) => deviceFindings(device, around.profiles.get(device.profile))),
    ...topicFindings(site, around),
    ...seenByFindings(site, kinds),
    ...nameFindings(site),
    ...bundleFindings(site, kinds),
  ];
}

function deviceFindings(device: DeviceDescription, profile: Profile | undefined): Finding[] {
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
