/** What is wrong with channels whose state other channels tell. */
import { type KindName, kindOf } from "../channel/index.ts";
import { readsNumbers } from "../channel/kind.ts";
import { isColour } from "../channel/value.ts";
import { sourcesOf } from "../state/seen.ts";
import type { Finding } from "./finding.ts";
import type { ChannelDescription, SeenBy, SiteDescription } from "./model.ts";

/** @param kinds by `device/channel` */
export function seenByFindings(site: SiteDescription, kinds: ReadonlyMap<string, KindName>): Finding[] {
  return site.rooms.flatMap((room) =>
    room.devices.flatMap((device) =>
      device.channels.flatMap((channel) => findingsOf(channel, `${device.slug}/${channel.slug}`, kinds, site)),
    ),
  );
}

function findingsOf(
  channel: ChannelDescription,
  path: string,
  kinds: ReadonlyMap<string, KindName>,
  site: SiteDescription,
): Finding[] {
  const { seenBy, kind } = channel;
  if (!seenBy) return [];
  const wrong = (text: string): Finding => ({ level: "wrong", at: `devices/${path}`, text });
  const found = sourcesOf(seenBy).flatMap((source) => {
    const text = source === path || isSeen(site, source) ? NOT_ITS_OWN : mistakeOf(seenBy, kinds.get(source));
    return text === null ? [] : wrong(`is seen by ${source}, ${text}`);
  });
  if ("open" in seenBy && !kindOf(kind).seenBy.includes("ends"))
    found.push(wrong(`has end contacts, which suit a position, not a ${kind}.`));
  if ("channel" in seenBy && !kindOf(kind).seenBy.includes("one"))
    found.push(
      wrong(`is seen by one channel, which tells on or off: that suits relays, lights and positions, not a ${kind}.`),
    );
  if ("channel" in seenBy && (seenBy.below ?? 0) > (seenBy.above ?? Number.POSITIVE_INFINITY))
    found.push(wrong(`has its lower threshold (below ${seenBy.below}) above the upper one (above ${seenBy.above}).`));
  return found;
}

const NOT_ITS_OWN = "which does not tell its own state.";

/** @returns what is wrong with a source of this kind; null: nothing */
function mistakeOf(seenBy: SeenBy, kind: KindName | undefined): string | null {
  if (kind === undefined) return "which is no channel of the site.";
  const { repeatable, rest } = kindOf(kind);
  if (!repeatable || isColour(rest)) return `a ${kind}: only a contact, a reading or another on-off channel can tell.`;
  if (!readsNumbers(kindOf(kind))) return null;
  if ("open" in seenBy) return "a reading: an end contact is a contact.";
  const bare = seenBy.above === undefined && seenBy.below === undefined;
  return bare ? "a reading, and needs thresholds: above, and below for hysteresis." : null;
}

function isSeen(site: SiteDescription, path: string): boolean {
  return site.rooms
    .flatMap((room) => room.devices)
    .some(({ slug, channels }) => channels.some((one) => `${slug}/${one.slug}` === path && one.seenBy !== undefined));
}
