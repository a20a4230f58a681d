/** Topics that nobody claims, as devices they may belong to: by the topic patterns of the profiles that there are. Pure. */

import { type KindName, kindNames, kindOf } from "../channel/index.ts";
import { isValue } from "../channel/value.ts";
import { isGarbled } from "../codec/codec.ts";
import { bindCodec, bindFirmware } from "../codec/index.ts";
import type { ChannelDescription, Profile } from "./model.ts";

/** A message that was heard on a topic which no device has. */
export interface Unassigned {
  readonly topic: string;
  readonly payload: Uint8Array;
}

/** A device that would explain what was heard. */
export interface Candidate {
  readonly profile: string;
  /** Its name in topics. */
  readonly device: string;
  readonly channels: readonly ChannelDescription[];
  /** How many of the topics heard it would explain, */
  readonly topics: number;
  /** and how many of the payloads to the letter: several profiles may understand the same one. */
  readonly exact: number;
}

/**
 * @param site whose devices they would be; only topics that would be its are looked at
 * @returns those that explain most first; one candidate a device and profile
 */
export function candidatesFor(
  site: string,
  profiles: readonly Profile[],
  heard: readonly Unassigned[],
): readonly Candidate[] {
  const found = profiles.flatMap((profile) => ofProfile(site, profile, heard));
  return found.sort((one, other) => fit(other) - fit(one) || (one.device < other.device ? -1 : 1));
}

function fit({ topics, exact }: Candidate): number {
  return topics + exact / 2;
}

interface Growing {
  readonly topics: Set<string>;
  readonly exact: Set<string>;
  readonly channels: Map<string, ChannelDescription>;
}

function ofProfile(site: string, profile: Profile, heard: readonly Unassigned[]): Candidate[] {
  const byDevice = new Map<string, Growing>();
  for (const one of heard) {
    for (const hint of hintsIn(site, profile, one.topic)) {
      const growing = byDevice.get(hint.device) ?? { topics: new Set(), exact: new Set(), channels: new Map() };
      byDevice.set(hint.device, growing);
      learn(growing, profile, hint, one);
    }
  }
  const found = [...byDevice].filter(([, { channels, topics }]) => channels.size > 0 && topics.size > 0);
  return found.map(([device, { topics, exact, channels }]) => {
    return { profile: profile.slug, device, channels: [...channels.values()], topics: topics.size, exact: exact.size };
  });
}

function learn(growing: Growing, profile: Profile, { role, holes }: Hint, { topic, payload }: Unassigned): void {
  const binding = bindingOf(holes);
  const read = role === "is" && binding ? readReport(profile, binding, payload) : null;
  // A report whose payload means nothing in this form speaks against the profile.
  if (role !== "is" || read !== null) growing.topics.add(topic);
  if (read?.exact) growing.exact.add(topic);
  if (binding) grow(growing, binding, read?.kind ?? null);
}

interface Hint {
  readonly role: "is" | "here" | "done" | "do";
  readonly device: string;
  readonly holes: Holes;
}

/** What a topic would be if it belonged to a device of this profile. */
function hintsIn(site: string, { topics }: Profile, topic: string): Hint[] {
  return (["is", "here", "done", "do"] as const).flatMap((role) => {
    const holes = matched(topics[role], topic);
    const fits = holes !== null && (holes.site ?? site) === site;
    return fits && holes.device !== undefined ? { role, device: holes.device, holes } : [];
  });
}

/** What a report tells of the kind counts more than that a topic is there. */
function grow({ channels }: Growing, binding: Omit<ChannelDescription, "kind">, kind: KindName | null): void {
  const known = channels.get(binding.slug);
  if (!known || kind !== null) channels.set(binding.slug, { ...binding, kind: kind ?? known?.kind ?? "relay" });
}

type Holes = Partial<Record<"site" | "device" | "channel" | "index", string>>;

/** @example matched("{site}/{device}/{channel}/is", "hall/board/lamp/is") // → { site: "hall", device: "board", channel: "lamp" } */
function matched(pattern: string | null, topic: string): Holes | null {
  if (pattern === null) return null;
  const names: string[] = [];
  const source = pattern.replace(/\{(\w+)\}|[^{]+/g, (part, hole: string | undefined) => {
    if (hole === undefined) return part.replace(/[.*+?^$()|[\]\\]/g, "\\$&");
    names.push(hole);
    return "([a-z0-9-]{1,40})";
  });
  const found = new RegExp(`^${source}$`).exec(topic);
  return found && (Object.fromEntries(names.map((name, index) => [name, found[index + 1]])) as Holes);
}

/** The channel that a topic names, by a name or by its number on the device. */
function bindingOf({ channel, index }: Holes): Omit<ChannelDescription, "kind"> | null {
  if (channel !== undefined) return { slug: channel, name: spelled(channel) };
  const number = index === undefined ? Number.NaN : Number(index);
  return Number.isInteger(number) ? { slug: `channel-${number}`, name: `Channel ${number}`, index: number } : null;
}

/** "path-lights" → "Path lights" */
function spelled(slug: string): string {
  const words = slug.replaceAll("-", " ");
  return words.charAt(0).toUpperCase() + words.slice(1);
}

/** What a report tells: which kind of channel it suits, and whether a device of this profile would have written it just so. */
export function readReport(
  { codec, indexFrom = 1 }: Profile,
  { slug, index = indexFrom }: Omit<ChannelDescription, "kind">,
  payload: Uint8Array,
) {
  // The plainest kinds come first in their index: what could be a relay is taken for one.
  for (const kind of kindNames) {
    const { suggestedBy } = kindOf(kind);
    if (suggestedBy === null) continue;
    const binding = { slug, index, kind: kindOf(kind), reversed: false };
    const read = bindCodec(codec, binding).decodeIs(payload);
    if (read === null || isGarbled(read) || !isValue(read.value) || !suggestedBy(read.value)) continue;
    const written = bindFirmware(codec, binding).report(read.value, read.by, read.id);
    return { kind, exact: written.length === payload.length && written.every((byte, at) => byte === payload[at]) };
  }
  return null;
}
