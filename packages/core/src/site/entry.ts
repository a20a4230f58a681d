/** One channel as every request meets it: made of its record once, and only read from then on. */
import { type KindName, kindOf, kindOfChannel } from "../channel/index.ts";
import { type ChannelRange, countsNumbers } from "../channel/kind.ts";
import { isOn, READ, type Value } from "../channel/value.ts";
import type { ChannelBinding, ChannelCodec } from "../codec/codec.ts";
import { bindCodec } from "../codec/index.ts";
import type { Drive } from "../delivery/command.ts";
import { type DeliveryPolicy, defaultPolicy } from "../delivery/policy.ts";
import type { ChannelId } from "../id.ts";
import { anyInTopic, saysInTopic } from "./in-topic.ts";
import type { ChannelDescription, DeviceDescription, Made, Profile, SeenBy, TopicPatterns } from "./model.ts";
import { remembered } from "./remembered.ts";

/** One channel with everything that stands around it. */
export interface ChannelEntry {
  readonly id: ChannelId;
  /** Its number in the site's schedule of circuits, from 1. */
  readonly number: number;
  readonly slug: string;
  readonly name: string;
  readonly kind: KindName;
  /** `site/device/channel`, unique everywhere. */
  readonly address: string;
  readonly site: { readonly slug: string; readonly name: string };
  readonly room: { readonly slug: string; readonly name: string };
  readonly device: { readonly id: number; readonly slug: string; readonly name: string; readonly address: string };
  readonly profile: Profile;
  /** The patterns of its topics: its own, its device's, its profile's. Shared by all channels that have the same. */
  readonly patterns: TopicPatterns;
  /** Its number on the device, as the device counts. */
  readonly index: number;
  readonly reversed: boolean;
  readonly unit: string | null;
  /** The board behind a shared topic; null: the device is one board. */
  readonly node: string | number | null;
  /** Of a setpoint. */
  readonly range: ChannelRange | null;
  readonly drive: Drive;
  /** What tells its state, where its own reports do not. */
  readonly seenBy: SeenBy | null;
  /** Of a contact: what it means when it is made. */
  readonly made: Made;
  /** Whether "everything" may switch it, as far as its description says; null: by its kind. */
  readonly inAll: boolean | null;
  /** How its payloads are written and read. */
  readonly codec: ChannelCodec;
  /** What payloads need to know of it. */
  readonly binding: ChannelBinding;
  readonly policy: DeliveryPolicy;
  /** The lane that its commands go through; several channels may share one. */
  readonly lane: ChannelId;
  /** Whether an acknowledgement names its command: in its payload, its topic or its correlation data. */
  readonly namesCommand: boolean;
  /** Topics that say something of their message, with holes for it; null: the topic is always the same. */
  readonly inTopic: { readonly do: string | null; readonly done: string | null; readonly is: string | null };
  /**
   * `do` is null for channels that only report, `ask` for those that cannot be asked what they are. Where a topic differs with its message,
   * the filter that covers all of them.
   */
  readonly topics: {
    readonly do: string | null;
    /** Where a stop is written; null: on `do`. */
    readonly stop: string | null;
    readonly ask: string | null;
    readonly done: string | null;
    readonly is: string | null;
  };
}

/** A channel as the journal's model tables hold it. */
export interface ChannelRecord {
  readonly id: ChannelId;
  readonly number: number;
  readonly slug: string;
  readonly name: string;
  readonly kind: KindName;
  readonly delivery: Partial<DeliveryPolicy>;
  readonly wiring: Omit<ChannelDescription, "slug" | "name" | "kind" | "delivery">;
  readonly site: { readonly slug: string; readonly name: string };
  readonly room: { readonly slug: string; readonly name: string };
  /** `id`: the journal's number of the device. */
  readonly device: {
    readonly id: number;
    readonly slug: string;
    readonly name: string;
    readonly topics?: DeviceDescription["topics"];
  };
  readonly profile: Profile;
}

/**
 * @param place how many channels of its device come before it
 * @param lane another channel's, where their answers cannot be told apart
 */
export function entryOf(record: ChannelRecord, place: number, lane: ChannelId = record.id): ChannelEntry {
  const { id, number, slug, name, site, room, profile, wiring } = record;
  const address = `${site.slug}/${record.device.slug}`;
  const device = { id: record.device.id, slug: record.device.slug, name: record.device.name, address };
  const { index = place + (profile.indexFrom ?? 1), reversed = false, unit = null } = wiring;
  const kind = kindOf(record.kind);
  const binding = bindingOf(record, index);
  const codec = bindCodec(profile.codec, binding);
  const patterns = patternsOf(profile.topics, record.device.topics, wiring.topics);
  const where = { site, device, slug, index };
  const filled = (pattern: string | null) => (pattern === null ? null : fillTopic(pattern, where));
  const topic = (pattern: string | null) => {
    const one = filled(pattern);
    return one === null ? null : anyInTopic(one);
  };
  const inTopic = (pattern: string | null) => (pattern !== null && saysInTopic(pattern) ? filled(pattern) : null);
  // Written out: every request reads it, and what starts as a spread is slow to read.
  return {
    id,
    number,
    slug,
    name,
    kind: record.kind,
    address: `${address}/${slug}`,
    site,
    room,
    device,
    profile,
    patterns,
    index,
    reversed,
    unit,
    node: wiring.node ?? null,
    range: wiring.range ?? null,
    drive: wiring.drive ?? "set",
    seenBy: wiring.seenBy ?? null,
    made: wiring.made ?? "on",
    inAll: wiring.inAll ?? null,
    codec,
    binding,
    lane,
    policy: policyOf(profile, deliveryOf(record)),
    namesCommand: codec.namesCommand || profile.requestResponse === true || namesCommandIn(patterns.done),
    inTopic: { do: inTopic(patterns.do), done: inTopic(patterns.done), is: inTopic(patterns.is) },
    topics: {
      do: kind.input ? null : topic(patterns.do),
      stop: "stop" in kind.actions && patterns.stop !== patterns.do ? topic(patterns.stop ?? null) : null,
      // A pulse has nothing that it is.
      ask: kind.repeatable && patterns.is !== null ? topic(patterns.ask ?? null) : null,
      done: kind.input ? null : topic(patterns.done),
      is: topic(patterns.is),
    },
  };
}

function namesCommandIn(pattern: string | null): boolean {
  return pattern !== null && /\{(?:id|number)\}/.test(pattern);
}

/** All topics on which commands are written to it; empty for one that only reports. */
export function commandTopicsOf({ topics }: Pick<ChannelEntry, "topics">): readonly string[] {
  return [topics.do, topics.stop].flatMap((topic) => topic ?? []);
}

function bindingOf({ slug, kind, wiring, profile }: ChannelRecord, index: number): ChannelBinding {
  const { reversed = false, words, calibration, node, range = null } = wiring;
  const binding = {
    slug,
    index,
    kind: kindOfChannel({ kind, range }),
    reversed,
    place: index - (profile.indexFrom ?? 1),
  };
  return {
    ...binding,
    ...(words ? { words } : {}),
    ...(calibration ? { calibration } : {}),
    ...(node === undefined ? {} : { node }),
  };
}

/** How many channels of the same device come before each. @param records in the order of the schedule */
export function placesIn(records: readonly Pick<ChannelRecord, "device">[]): number[] {
  let place = 0;
  return records.map(({ device }, at) => {
    place = records[at - 1]?.device.id === device.id ? place + 1 : 0;
    return place;
  });
}

/** A device that ramps reports so much later that it has got there. */
function deliveryOf({ delivery, wiring, profile }: ChannelRecord): Partial<DeliveryPolicy> {
  const rampMs = wiring.calibration?.rampMs ?? 0;
  if (rampMs === 0) return delivery;
  return {
    ...delivery,
    settleMs: (delivery.settleMs ?? profile.delivery.settleMs ?? defaultPolicy.settleMs) + rampMs,
  };
}

/** A channel's own patterns before its device's before its profile's. */
export function patternsOf(
  profile: TopicPatterns,
  device: DeviceDescription["topics"],
  channel: ChannelDescription["topics"],
): TopicPatterns {
  return device === undefined && channel === undefined ? profile : { ...profile, ...device, ...channel };
}

/** Most channels have no settings of their own: those of a profile share one policy. */
const policies = new WeakMap<Profile, DeliveryPolicy>();

function policyOf(profile: Profile, delivery: Partial<DeliveryPolicy>): DeliveryPolicy {
  const made = () => Object.freeze(inOneShape({ ...defaultPolicy, ...profile.delivery, ...delivery }));
  if (Object.keys(delivery).length > 0) return made();
  const policy = policies.get(profile) ?? made();
  policies.set(profile, policy);
  return policy;
}

/** Policies are read at each step of each command: all of them have one shape. */
function inOneShape(policy: DeliveryPolicy): DeliveryPolicy {
  return {
    targetStage: policy.targetStage,
    reports: policy.reports,
    reportsEveryMs: policy.reportsEveryMs,
    ackWithinMs: policy.ackWithinMs,
    attempts: policy.attempts,
    ttlMs: policy.ttlMs,
    settleMs: policy.settleMs,
    minGapMs: policy.minGapMs,
    tolerance: policy.tolerance,
    stillMs: policy.stillMs,
    askAfterMs: policy.askAfterMs,
    askEveryMs: policy.askEveryMs,
    offlineAfterMs: policy.offlineAfterMs,
    whenAbsent: policy.whenAbsent,
    powerUp: policy.powerUp,
    safe: policy.safe,
    autoOffMs: policy.autoOffMs,
    holdForMs: policy.holdForMs,
    timesItself: policy.timesItself,
    knowsRepeats: policy.knowsRepeats,
  };
}

/** Where its device says that it is there; "its messages": it is there as long as it is heard; null: nobody can know. */
export function presenceSource({ patterns, policy }: Pick<ChannelEntry, "patterns" | "policy">): string | null {
  return patterns.here ?? (policy.offlineAfterMs === null ? null : "its messages");
}

interface TopicPlace {
  readonly site: { readonly slug: string };
  readonly device: { readonly slug: string };
  readonly slug: string;
  readonly index: number;
}

/** `{site}/{device}/{channel}/do` → `alder-row/finch/porch/do` */
export function fillTopic(pattern: string, place: TopicPlace): string {
  let topic = "";
  for (const part of partsOf(pattern)) {
    if (part === "{site}") topic += place.site.slug;
    else if (part === "{device}") topic += place.device.slug;
    else if (part === "{channel}") topic += place.slug;
    else topic += part === "{index}" ? place.index : part;
  }
  return topic;
}

/** A pattern, cut at its holes. Thousands of channels share a few patterns: each is cut once. */
const partsOf = remembered((pattern: string) => pattern.split(/(\{(?:site|device|channel|index)\})/));

/** Whether nothing but its turn, or the id in it, tells whose an answer of this device is. */
export function answersByTurns({ patterns, codec }: ChannelEntry): boolean {
  return !/\{(?:channel|index)\}/.test(patterns.done ?? "{channel}") && !codec.namesChannel.done;
}

/** Whether the channel is made, lit or moving. A reading and a setpoint are none of these, whatever its number is. */
export function isChannelOn({ kind }: Pick<ChannelEntry, "kind">, value: Value): boolean {
  return !countsNumbers(kindOf(kind)) && isOn(value);
}

/** A contact as people say it, by what it means when it is made. */
const CONTACT_WORDS: Readonly<Record<Made, { readonly on: string; readonly off: string }>> = {
  on: { on: "made", off: "not made" },
  open: { on: "open", off: "shut" },
  shut: { on: "shut", off: "open" },
  pressed: { on: "pressed", off: "not pressed" },
};

/** A value of this channel as people say it. @example channelWords(hallDimmer, 35) // → "35 %" */
export function channelWords({ kind, unit, made }: Pick<ChannelEntry, "kind" | "unit" | "made">, value: Value): string {
  if (value === READ) return "what it is";
  if (kindOf(kind).answers === "made" && (value === "on" || value === "off")) return CONTACT_WORDS[made][value];
  const words = kindOf(kind).words(value);
  return unit === null ? words : `${words} ${unit}`;
}
