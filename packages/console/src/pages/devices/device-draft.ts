/** A device as its form holds it, and the site as it would be with that in it. */
import {
  type ChannelDescription,
  type DeviceDescription,
  deviceOf,
  type KindName,
  type SiteDescription,
  withDevice,
  withKeptSettings,
} from "@bold-relay/core";

export interface ChannelDraft {
  /** For lists: rows come and go. */
  readonly key: number;
  readonly name: string;
  /** "" is made of the name. */
  readonly slug: string;
  readonly kind: KindName;
  readonly index: string;
  readonly reversed: boolean;
  readonly unit: string;
}

export interface DeviceDraft {
  readonly site: string;
  readonly room: string;
  readonly name: string;
  readonly slug: string;
  readonly profile: string;
  readonly channels: readonly ChannelDraft[];
}

let lastKey = 0;

export function emptyChannel(): ChannelDraft {
  lastKey += 1;
  return { key: lastKey, name: "", slug: "", kind: "relay", index: "", reversed: false, unit: "" };
}

export function channelDraft({ name, slug, kind, index, reversed, unit }: ChannelDescription): ChannelDraft {
  const number = index === undefined ? "" : String(index);
  return { ...emptyChannel(), name, slug, kind, index: number, reversed: reversed === true, unit: unit ?? "" };
}

/** What stands in a site, as its form begins. */
export function draftOf(site: SiteDescription, slug: string): DeviceDraft | null {
  const device = deviceOf(site, slug);
  const room = site.rooms.find(({ devices }) => devices.some((one) => one.slug === slug));
  if (!device || !room) return null;
  const { name, profile, channels } = device;
  return { site: site.slug, room: room.name, name, slug, profile, channels: channels.map(channelDraft) };
}

/**
 * The site as it would be.
 *
 * @param replaces whether the site may have a device of this name already
 * @throws Error that says what is missing
 */
export function siteWith(site: SiteDescription, draft: DeviceDraft, replaces: boolean): SiteDescription {
  const slug = slugOf(draft.slug);
  const before = deviceOf(site, slug);
  if (before && !replaces)
    throw new Error(`${site.name} has a device called ${slug} already. Give it another name in topics.`);
  const channels = draft.channels.filter(({ name }) => name.trim() !== "");
  if (channels.length === 0) throw new Error("It needs a channel: something that it switches or tells.");
  const device: DeviceDescription = {
    slug,
    name: draft.name.trim(),
    profile: draft.profile,
    channels: channels.map(described),
  };
  const wanted = draft.room.trim();
  const room = site.rooms.find(({ name }) => name.toLowerCase() === wanted.toLowerCase());
  return withDevice(
    site,
    room ?? { slug: slugOf(wanted), name: wanted },
    withKeptSettings(device, before ?? undefined),
  );
}

function described(draft: ChannelDraft): ChannelDescription {
  const slug = slugOf(draft.slug.trim() === "" ? draft.name : draft.slug);
  return {
    slug,
    name: draft.name.trim(),
    kind: draft.kind,
    ...(draft.index.trim() === "" ? {} : { index: Number(draft.index) }),
    ...(draft.reversed ? { reversed: true } : {}),
    ...(draft.unit.trim() === "" ? {} : { unit: draft.unit.trim() }),
  };
}

/** An identifier of a name. @example slugOf("Boiler room") // → "boiler-room" */
export function slugOf(text: string): string {
  const plain = text
    .normalize("NFKD")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-");
  return plain.replace(/^-+|-+$/g, "").slice(0, 40);
}
