/**
 * Changes of single parts of a site's description: a room, a device, a channel, a group, a scene, an interlock. Each gives the whole
 * site as it would be. That is then checked like any other description: fields come from callers and may still be anything.
 */
import { RelayError } from "../errors/relay-error.ts";
import { type JsonFields, mergePatch } from "../merge-patch.ts";
import { deviceOf, withDevice, withoutDevice, withoutStrays } from "./edit.ts";
import type { ChannelDescription, DeviceDescription, SiteDescription } from "./model.ts";

export const SITE_PARTS = ["rooms", "devices", "channels", "groups", "scenes", "interlocks"] as const;
export type SitePart = (typeof SITE_PARTS)[number];

/**
 * - site: a merge patch (RFC 7396) of the site's own fields, `name` and `timeZone`
 * - put: the part becomes what the fields say, and is added where it is not there
 * - patch: a merge patch of the part
 * - delete: the part goes, and out of all that names it
 *
 * A part is named by its identifier, a channel as `device/channel`, an interlock by its name.
 */
export type SiteEdit =
  | { readonly edit: "site"; readonly fields: JsonFields }
  | { readonly edit: "put" | "patch"; readonly part: SitePart; readonly name: string; readonly fields: JsonFields }
  | { readonly edit: "delete"; readonly part: SitePart; readonly name: string };

/**
 * The site after an edit.
 *
 * @throws RelayError not-found, bad-request, or depended-on for a room that has devices
 * @example withEdit(glasshouse, { edit: "delete", part: "groups", name: "vents" })
 */
export function withEdit(site: SiteDescription, change: SiteEdit): SiteDescription {
  if (change.edit === "site") return withSiteFields(site, change.fields);
  const { part, name } = change;
  const one = PARTS[part];
  const known = one.find(site, name);
  if (known === null && change.edit !== "put")
    throw new RelayError("not-found", { what: `The ${ONE[part]} ${name} of ${site.slug}` });
  if (change.edit === "delete") return one.remove(site, name);
  const fields = change.edit === "put" ? change.fields : (mergePatch(known, change.fields) as JsonFields);
  return one.put(site, name, fields);
}

export const ONE: Readonly<Record<SitePart, string>> = {
  rooms: "room",
  devices: "device",
  channels: "channel",
  groups: "group",
  scenes: "scene",
  interlocks: "interlock",
};

function withSiteFields(site: SiteDescription, fields: JsonFields): SiteDescription {
  const other = Object.keys(fields).find((field) => field !== "name" && field !== "timeZone");
  if (other !== undefined)
    throw new RelayError("bad-request", { why: `“${other}” is not changed here; “name” and “timeZone” are` });
  return mergePatch(site, fields) as SiteDescription;
}

interface PartAccess {
  /** As a caller writes it; null: the site has none of this name. */
  find(site: SiteDescription, name: string): object | null;
  put(site: SiteDescription, name: string, fields: JsonFields): SiteDescription;
  remove(site: SiteDescription, name: string): SiteDescription;
}

const rooms: PartAccess = {
  find({ rooms: all }, slug) {
    const at = all.findIndex((room) => room.slug === slug);
    const room = all[at];
    return room ? { slug, name: room.name, place: at + 1 } : null;
  },
  put(site, slug, fields) {
    const { place = null, ...own } = named(slug, "slug", fields);
    const at = site.rooms.findIndex((room) => room.slug === slug);
    const known = site.rooms[at];
    const others = site.rooms.filter((room) => room.slug !== slug);
    const wanted = place ?? (known ? at + 1 : others.length + 1);
    if (typeof wanted !== "number" || !Number.isInteger(wanted) || wanted < 1)
      throw new RelayError("bad-request", { why: "“place” counts the rooms of the site from 1" });
    const room = { ...own, devices: known?.devices ?? [] } as unknown as SiteDescription["rooms"][number];
    return { ...site, rooms: others.toSpliced(wanted - 1, 0, room) };
  },
  remove(site, slug) {
    const devices = site.rooms.find((room) => room.slug === slug)?.devices ?? [];
    if (devices.length > 0)
      throw new RelayError("depended-on", {
        what: `The room ${slug}`,
        by: devices.map((device) => `the device ${device.slug}`).join(", "),
      });
    return { ...site, rooms: site.rooms.filter((room) => room.slug !== slug) };
  },
};

const devices: PartAccess = {
  find(site, slug) {
    const device = deviceOf(site, slug);
    return device && { ...device, room: roomOf(site, slug)?.slug };
  },
  put(site, slug, fields) {
    const { room = roomOf(site, slug)?.slug, ...device } = named(slug, "slug", fields);
    const known = site.rooms.find((one) => one.slug === room);
    if (!known)
      throw new RelayError("bad-request", {
        why: `“room” names a room of the site: ${site.rooms.map((one) => one.slug).join(", ") || "add one first"}`,
      });
    if (!Array.isArray(device.channels)) throw new RelayError("bad-request", { why: "“channels” is a list" });
    return withDevice(site, known, device as unknown as DeviceDescription);
  },
  remove: withoutDevice,
};

const channels: PartAccess = {
  find(site, name) {
    return channelOf(site, name);
  },
  put(site, name, fields) {
    const [device, slug] = splitPath(name);
    const holder = deviceOf(site, device);
    if (!holder) throw new RelayError("not-found", { what: `The device ${device} of ${site.slug}` });
    const channel = named(slug, "slug", fields) as unknown as ChannelDescription;
    const isKnown = holder.channels.some((one) => one.slug === slug);
    const all = isKnown
      ? holder.channels.map((one) => (one.slug === slug ? channel : one))
      : [...holder.channels, channel];
    return withChannels(site, holder, all);
  },
  remove(site, name) {
    const [device, slug] = splitPath(name);
    const holder = deviceOf(site, device);
    if (!holder) return site;
    if (holder.channels.length === 1)
      throw new RelayError("bad-request", {
        why: `${name} is the only channel of its device: delete the device ${device} instead`,
      });
    return withChannels(
      site,
      holder,
      holder.channels.filter((one) => one.slug !== slug),
    );
  },
};

/** Groups, scenes and interlocks: lists beside the rooms, each with a field that tells one from another. */
function listed(list: "groups" | "scenes" | "interlocks", key: "slug" | "name"): PartAccess {
  const all = (site: SiteDescription) => (site[list] ?? []) as unknown as readonly JsonFields[];
  const withList = (site: SiteDescription, next: readonly JsonFields[]) =>
    ({ ...site, [list]: next }) as SiteDescription;
  return {
    find: (site, name) => all(site).find((one) => one[key] === name) ?? null,
    put(site, name, fields) {
      const next = named(name, key, fields);
      const isKnown = all(site).some((one) => one[key] === name);
      return withList(site, isKnown ? all(site).map((one) => (one[key] === name ? next : one)) : [...all(site), next]);
    },
    remove: (site, name) =>
      withList(
        site,
        all(site).filter((one) => one[key] !== name),
      ),
  };
}

const PARTS: Readonly<Record<SitePart, PartAccess>> = {
  rooms,
  devices,
  channels,
  groups: listed("groups", "slug"),
  scenes: listed("scenes", "slug"),
  interlocks: listed("interlocks", "name"),
};

/** What is called in the address is called so in the body, or not at all. */
function named(name: string, key: "slug" | "name", fields: JsonFields): JsonFields {
  const inBody = fields[key] ?? name;
  if (inBody !== name)
    throw new RelayError("bad-request", { why: `It is ${name} in the address and ${String(inBody)} in the body` });
  return { [key]: name, ...fields };
}

function roomOf(site: SiteDescription, device: string) {
  return site.rooms.find((room) => room.devices.some((one) => one.slug === device)) ?? null;
}

/** @param name `device/channel` */
export function channelOf(site: SiteDescription, name: string): ChannelDescription | null {
  const [device, slug] = splitPath(name);
  return deviceOf(site, device)?.channels.find((one) => one.slug === slug) ?? null;
}

function splitPath(name: string): [device: string, channel: string] {
  const [device = "", channel = ""] = name.split("/");
  return [device, channel];
}

function withChannels(site: SiteDescription, device: DeviceDescription, all: readonly ChannelDescription[]) {
  const next = { ...device, channels: all };
  const inRoom = (room: SiteDescription["rooms"][number]) => ({
    ...room,
    devices: room.devices.map((one) => (one.slug === device.slug ? next : one)),
  });
  return withoutStrays({ ...site, rooms: site.rooms.map(inRoom) });
}
