/**
 * What is wrong with a site's description before it is taken on, and what is doubtful: each with the place and what to
 * do. Forms and ranges of single fields are the schema's matter; this is about what they mean together.
 */
import { type KindName, kindOf } from "../channel/index.ts";
import { fillTopic } from "./entry.ts";
import type { ChannelDescription, DeviceDescription, Profile, SiteDescription } from "./model.ts";
import { normalName } from "./name.ts";

export interface Finding {
  /** `wrong` keeps the site from being taken on, `doubt` does not. */
  readonly level: "wrong" | "doubt";
  /** Where: "devices/finch/porch", "scenes/evening". */
  readonly at: string;
  readonly text: string;
}

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
    ...devices.flatMap(({ device }) => deviceFindings(device, around.profiles.get(device.profile))),
    ...topicFindings(site, around),
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
  const seen = new Map<number, string>();
  return device.channels.flatMap((channel, place) => [
    ...channelFindings(channel, profile, `${at}/${channel.slug}`),
    ...indexFinding(seen, channel, channel.index ?? place + (profile.indexFrom ?? 1), at),
  ]);
}

function indexFinding(seen: Map<number, string>, { slug }: ChannelDescription, index: number, at: string): Finding[] {
  const other = seen.get(index);
  seen.set(index, slug);
  if (other === undefined) return [];
  return [{ level: "wrong", at: `${at}/${slug}`, text: `has number ${index} on the device, like ${other}.` }];
}

function channelFindings(channel: ChannelDescription, profile: Profile, at: string): Finding[] {
  const kind = kindOf(channel.kind);
  const { topics } = profile;
  const policy = { ...profile.delivery, ...channel.delivery };
  const found: Finding[] = [];
  const add = (level: Finding["level"], text: string) => void found.push({ level, at, text });
  if (kind.input && topics.is === null) add("wrong", `is a ${kind.name}, but its profile reports nothing (topics.is).`);
  if (!kind.input && topics.do === null)
    add("wrong", `is a ${kind.name}, but its profile takes no commands (topics.do).`);
  if (kind.input) return found;
  const aim = policy.aim ?? "confirmed";
  if (aim === "confirmed" && topics.is === null && kind.repeatable)
    add("wrong", "aims at confirmed, but its profile reports nothing (topics.is). Aim at acknowledged or published.");
  if (aim !== "published" && topics.done === null && topics.is === null)
    add("wrong", `aims at ${aim}, but its profile neither answers nor reports. Aim at published.`);
  if (policy.holdForMs && !policy.timesItself)
    add("doubt", "is held to run, but does not time itself: holding will be refused.");
  if (kind.name === "motor" && !policy.holdForMs && !policy.autoOffMs)
    add("doubt", "is a motor that nothing stops: set autoOffMs, or holdForMs where the device times itself.");
  return found;
}

/** Topics are unique: whoever shares one with another device hears what is meant for it. */
function topicFindings(site: SiteDescription, { profiles, ownerOf }: Surroundings): Finding[] {
  const owners = new Map<string, string>();
  const found: Finding[] = [];
  for (const device of site.rooms.flatMap((room) => room.devices)) {
    const profile = profiles.get(device.profile);
    for (const topic of profile ? topicsOf(site, device, profile) : []) {
      const address = `${site.slug}/${device.slug}`;
      const other = owners.get(topic) ?? ownerOf(topic);
      owners.set(topic, address);
      if (other === null || other === address) continue;
      const text = `uses the topic ${topic}, which belongs to ${other}.`;
      found.push({ level: "wrong", at: `devices/${device.slug}`, text });
    }
  }
  return found;
}

function topicsOf(site: SiteDescription, device: DeviceDescription, profile: Profile): Set<string> {
  const { topics, indexFrom = 1 } = profile;
  const all = new Set<string>();
  device.channels.forEach((channel, place) => {
    const index = channel.index ?? place + indexFrom;
    const where = { site, device, slug: channel.slug, index };
    for (const pattern of Object.values(topics)) if (pattern) all.add(fillTopic(pattern, where));
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
  return [
    ...groups.flatMap(({ slug, channels }) => inputs(`groups/${slug}`, channels)),
    ...interlocks.flatMap(({ name, channels }) => inputs(`interlocks/${name}`, channels)),
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
