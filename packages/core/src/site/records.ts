/** A description as the records that a snapshot is built of: to ask what a site would be before it is saved. */
import type { ChannelId } from "../id.ts";
import type { ChannelRecord } from "./entry.ts";
import type { Profile, SiteDescription } from "./model.ts";

/**
 * In the order of the schedule. Devices whose profile is not there are left out.
 *
 * @param idOf the channel's own number, by its address; a new channel needs one that no other has
 */
export function recordsOf(
  site: SiteDescription,
  profiles: ReadonlyMap<string, Profile>,
  idOf: (address: string) => ChannelId,
): ChannelRecord[] {
  const place = { slug: site.slug, name: site.name };
  const devices = site.rooms.flatMap(({ slug, name, devices: all }) =>
    all.map((device) => ({ room: { slug, name }, device })),
  );
  let number = 0;
  return devices.flatMap(({ room, device: { slug, name, topics, profile: named, channels } }, at) => {
    const profile = profiles.get(named);
    if (!profile) return [];
    const device = { id: -at - 1, slug, name, ...(topics ? { topics } : {}) };
    return channels.map(({ slug: channel, name: called, kind, delivery = {}, ...wiring }) => {
      number += 1;
      const id = idOf(`${site.slug}/${slug}/${channel}`);
      return { id, number, slug: channel, name: called, kind, delivery, wiring, site: place, room, device, profile };
    });
  });
}
