/** A translator's plan held against the sites: the devices behind it must be there, with the same channels. Pure. */
import type { KindName } from "../channel/index.ts";
import type { ChannelEntry } from "./entry.ts";
import type { Finding } from "./finding.ts";
import type { Snapshot } from "./snapshot.ts";

export interface PlannedDevice {
  readonly site: string;
  readonly device: string;
  readonly username?: string;
  readonly channels: readonly { readonly slug: string; readonly kind: KindName }[];
}

/**
 * @param reach the sites that the asker may know of; null: all
 * @returns findings whose places are within the plan, like `devices[0].channels[1]`
 */
export function translatedFindings(
  devices: readonly PlannedDevice[],
  { byDevice }: Pick<Snapshot, "byDevice">,
  reach: readonly string[] | null,
): Finding[] {
  return devices.flatMap((planned, index) => {
    const { site, device } = planned;
    const known = reach === null || reach.includes(site) ? byDevice.get(`${site}/${device}`) : undefined;
    const at = `devices[${index}]`;
    if (known) return [...deviceFindings(planned, known, at), ...channelFindings(planned, known, at)];
    return [wrong(`${at}.device`, `There is no device ${site}/${device}. Add it to its site first.`)];
  });
}

const OWN_TOPIC = "{site}/{device}/{channel}/do";

function deviceFindings(
  { site, device, username }: PlannedDevice,
  known: readonly ChannelEntry[],
  at: string,
): Finding[] {
  const other = known.find(({ patterns }) => patterns.do !== OWN_TOPIC);
  const profile = `${site}/${device} has the profile ${other?.profile.slug}. A translator speaks the profile behind-translator.`;
  const user = `${site}/${device} has no broker user here. Create one on its page.`;
  return [
    ...(other ? [wrong(`${at}.device`, profile)] : []),
    ...(username === undefined ? [doubt(`${at}.device`, user)] : []),
  ];
}

function channelFindings(
  { site, device, channels }: PlannedDevice,
  known: readonly ChannelEntry[],
  at: string,
): Finding[] {
  const planned = new Set(channels.map(({ slug }) => slug));
  const left = known.filter(({ slug }) => !planned.has(slug));
  return [
    ...channels.flatMap(({ slug, kind }, place): Finding[] => {
      const described = known.find((channel) => channel.slug === slug);
      const where = `${at}.channels[${place}]`;
      if (!described) return [wrong(`${where}.slug`, `${site}/${device} has no channel ${slug}.`)];
      if (described.kind === kind) return [];
      return [wrong(`${where}.kind`, `${described.name} is a ${described.kind} in its site, and a ${kind} here.`)];
    }),
    ...left.map(({ slug, name }) =>
      doubt(`${at}.channels`, `${name} (${slug}) is not in the plan: the translator does not reach it.`),
    ),
  ];
}

function wrong(at: string, text: string): Finding {
  return { level: "wrong", at, text };
}

function doubt(at: string, text: string): Finding {
  return { level: "doubt", at, text };
}
