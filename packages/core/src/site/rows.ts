/** A site's devices as a table, one channel a row: to be filled in where people have lists already. Pure; the file is others'. */
import { type KindName, kindNames } from "../channel/index.ts";
import { deviceOf, withDevice, withKeptSettings } from "./edit.ts";
import type { ChannelDescription, DeviceDescription, SiteDescription } from "./model.ts";

export const DEVICE_COLUMNS = [
  "room",
  "room_name",
  "device",
  "device_name",
  "profile",
  "channel",
  "channel_name",
  "kind",
  "index",
  "reversed",
  "unit",
] as const;
export type DeviceRow = Readonly<Record<(typeof DEVICE_COLUMNS)[number], string>>;

/** In schedule order. Delivery settings of single channels have no column: they stay with the site's file. */
export function deviceRows(site: SiteDescription): DeviceRow[] {
  return site.rooms.flatMap((room) =>
    room.devices.flatMap((device) =>
      device.channels.map(({ slug, name, kind, index, reversed, unit }) => ({
        room: room.slug,
        room_name: room.name,
        device: device.slug,
        device_name: device.name,
        profile: device.profile,
        channel: slug,
        channel_name: name,
        kind,
        index: index === undefined ? "" : String(index),
        reversed: reversed ? "yes" : "",
        unit: unit ?? "",
      })),
    ),
  );
}

/**
 * The site with the devices of a table in it: those of the same name are changed, channel by channel, others are added, and
 * what the table does not name stays. A channel that its device's rows leave out goes.
 *
 * @throws Error that names the row, counted from 1 below the heading, and what is wrong with it
 */
export function withDeviceRows(site: SiteDescription, rows: readonly Partial<DeviceRow>[]): SiteDescription {
  const devices = new Map<string, { room: { slug: string; name: string }; device: DeviceDescription }>();
  for (const [index, row] of rows.entries()) {
    const read = readRow(row, `Row ${index + 1}`);
    const known = devices.get(read.device.slug);
    if (!known) {
      devices.set(read.device.slug, { room: read.room, device: { ...read.device, channels: [read.channel] } });
      continue;
    }
    const twice = known.device.channels.some(({ slug }) => slug === read.channel.slug);
    if (twice) throw new Error(`Row ${index + 1}: ${read.device.slug} has a channel ${read.channel.slug} already.`);
    const channels = [...known.device.channels, read.channel];
    devices.set(read.device.slug, { ...known, device: { ...known.device, channels } });
  }
  return [...devices.values()].reduce((next, { room, device }) => withDevice(next, room, kept(site, device)), site);
}

function readRow(row: Partial<DeviceRow>, at: string) {
  const text = (column: keyof DeviceRow) => (row[column] ?? "").trim();
  const needed = (column: keyof DeviceRow) => {
    if (text(column) === "") throw new Error(`${at}: “${column}” is empty.`);
    return text(column);
  };
  const kind = needed("kind") as KindName;
  if (!kindNames.includes(kind)) throw new Error(`${at}: “${kind}” is no kind. Kinds: ${kindNames.join(", ")}.`);
  if (!/^\d{0,5}$/.test(text("index")))
    throw new Error(`${at}: “index” is ${text("index")}, which is no whole number.`);
  if (!["", "yes", "no"].includes(text("reversed").toLowerCase()))
    throw new Error(`${at}: “reversed” is ${text("reversed")}; it may be yes, no or empty.`);
  const channel: ChannelDescription = {
    slug: needed("channel"),
    name: needed("channel_name"),
    kind,
    ...(text("index") === "" ? {} : { index: Number(text("index")) }),
    ...(text("reversed").toLowerCase() === "yes" ? { reversed: true } : {}),
    ...(text("unit") === "" ? {} : { unit: text("unit") }),
  };
  return {
    room: { slug: needed("room"), name: text("room_name") || needed("room") },
    device: { slug: needed("device"), name: needed("device_name"), profile: needed("profile") },
    channel,
  };
}

/** What a table has no column for stays as it was. */
function kept(site: SiteDescription, device: DeviceDescription): DeviceDescription {
  return withKeptSettings(device, deviceOf(site, device.slug) ?? undefined);
}
