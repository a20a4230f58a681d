/** Small edits of a site's description: a device added, changed, or taken out. The rest stays as it is. */
import type { DeviceDescription, RoomDescription, SiteDescription } from "./model.ts";

/** @returns null when the site has no such device */
export function deviceOf(site: SiteDescription, slug: string): DeviceDescription | null {
  return site.rooms.flatMap((room) => room.devices).find((device) => device.slug === slug) ?? null;
}

/**
 * Puts a device into a room, in the place of the one of the same slug if there is one: so a new board takes over the
 * channels of a dead one, and their history with them. The room is made if it is not there.
 */
export function withDevice(
  site: SiteDescription,
  room: Pick<RoomDescription, "slug" | "name">,
  device: DeviceDescription,
): SiteDescription {
  const known = site.rooms.find((one) => one.slug === room.slug);
  const stays = known?.devices.some((one) => one.slug === device.slug) ?? false;
  const rooms = (known ? site.rooms : [...site.rooms, { ...room, devices: [] }]).map((one) => {
    if (one.slug !== room.slug) return { ...one, devices: one.devices.filter(({ slug }) => slug !== device.slug) };
    if (stays) return { ...one, devices: one.devices.map((each) => (each.slug === device.slug ? device : each)) };
    return { ...one, devices: [...one.devices, device] };
  });
  return withoutStrays({ ...site, rooms });
}

/**
 * What a form or a table has no field for stays as it was: topics, words, calibration, what sees a channel.
 *
 * @param before the device as it is now; undefined: it is new
 */
export function withKeptSettings(device: DeviceDescription, before: DeviceDescription | undefined): DeviceDescription {
  const channels = device.channels.map((channel) => {
    const known = before?.channels.find(({ slug }) => slug === channel.slug);
    if (!known) return channel;
    const { slug: _slug, name: _name, kind: _kind, index: _index, reversed: _reversed, unit: _unit, ...kept } = known;
    return { ...channel, ...kept };
  });
  return { ...device, ...(before?.topics ? { topics: before.topics } : {}), channels };
}

/** Takes a device out, and its channels out of groups, scenes and interlocks. */
export function withoutDevice(site: SiteDescription, slug: string): SiteDescription {
  const rooms = site.rooms.map((room) => ({ ...room, devices: room.devices.filter((one) => one.slug !== slug) }));
  return withoutStrays({ ...site, rooms });
}

/** Leaves out what names channels that are gone: of an interlock at least two must be left. */
export function withoutStrays(site: SiteDescription): SiteDescription {
  const devices = site.rooms.flatMap((room) => room.devices);
  const paths = new Set(devices.flatMap((device) => device.channels.map(({ slug }) => `${device.slug}/${slug}`)));
  const kept = (channels: readonly string[]) => channels.filter((path) => paths.has(path));
  const { groups = [], scenes = [], interlocks = [] } = site;
  return {
    ...site,
    groups: groups.map((one) => ({ ...one, channels: kept(one.channels) })).filter((one) => one.channels.length > 0),
    scenes: scenes
      .map((one) => ({ ...one, sets: one.sets.filter((set) => paths.has(set.channel)) }))
      .filter((one) => one.sets.length > 0),
    interlocks: interlocks
      .map((one) => ({ ...one, channels: kept(one.channels) }))
      .filter((one) => one.channels.length > 1),
  };
}
