/** What a stand-in board hears and says: by the profile that describes it, as its makers would have written it. */
import {
  type Aside,
  anyInTopic,
  bindCodec,
  bindFirmware,
  type ChannelKind,
  type ChannelRange,
  type DecodedCommand,
  encodePresence,
  type Firmware,
  fillInTopic,
  fillTopic,
  type KindName,
  kindOfChannel,
  type Profile,
  readInTopic,
  saysInTopic,
  type Value,
} from "@bold-relay/core";

/** One channel of a board: what it speaks, and on which topics. */
export interface BoardBinding {
  readonly slug: string;
  readonly kind: KindName;
  /** What it is when it is new. */
  readonly rest: Value;
  readonly firmware: Firmware;
  /** How its values stand in topics. */
  readonly aside: Aside;
  readonly topics: Readonly<Record<"do" | "stop" | "ask" | "done" | "is", string | null>>;
}

export interface BoardChannel {
  readonly slug: string;
  readonly kind?: KindName;
  readonly index?: number;
  readonly reversed?: boolean;
  readonly range?: ChannelRange;
}

const TOPICS = {
  do: "{site}/{device}/{channel}/do",
  ask: "{site}/{device}/{channel}/ask",
  done: "{site}/{device}/{channel}/done",
  is: "{site}/{device}/{channel}/is",
  here: "{site}/{device}/here",
};

/** New devices in our own form, or bare words; their answers each on a topic of its own, or all on one. */
export function plainProfile(codec: "json" | "word", oneAnswerTopic: boolean): Profile {
  const topics = oneAnswerTopic ? { ...TOPICS, done: "{site}/{device}/done" } : TOPICS;
  return { slug: "plain", name: "Plain", codec, topics, delivery: {} };
}

export function bindingsOf(
  site: string,
  device: string,
  profile: Profile,
  channels: readonly BoardChannel[],
): BoardBinding[] {
  return channels.map(({ slug, kind = "relay", index: given, reversed = false, range = null }, place) => {
    const index = given ?? place + (profile.indexFrom ?? 1);
    // With what a message says in its topic left open.
    const topic = (pattern: string | null) =>
      pattern === null ? null : fillTopic(pattern, { site: { slug: site }, device: { slug: device }, slug, index });
    const { do: commands, stop = null, ask = null, done, is } = profile.topics;
    const binding = {
      slug,
      index,
      kind: kindOfChannel({ kind, range }),
      reversed,
      place: index - (profile.indexFrom ?? 1),
    };
    const firmware = bindFirmware(profile.codec, binding);
    const { aside } = bindCodec(profile.codec, binding);
    const writes = { done: topic(done), is: topic(is) };
    return {
      slug,
      kind,
      rest: restOf(binding.kind),
      firmware,
      aside,
      topics: { do: topic(commands), stop: topic(stop), ask: topic(ask), ...writes },
    };
  });
}

/** A command on its topic, which may say what is wanted; null: it is none, or another channel's. */
export function heardOn(
  { topics, firmware, aside }: BoardBinding,
  topic: string,
  payload: Buffer,
): DecodedCommand | null {
  if (topics.stop === topic) return firmware.hear(payload);
  const said = topics.do === null ? null : readInTopic(topics.do, topic);
  if (said === null) return null;
  const { id = said.number, value } = said;
  if (value === undefined) {
    const heard = firmware.hear(payload);
    return heard && { ...heard, id: id ?? heard.id };
  }
  const to = aside.read(value);
  return to === null ? null : { id: id ?? null, to, forMs: null };
}

/** The topics, or the filters that cover them, which it subscribes to for one channel. */
export function readsOf({ topics }: BoardBinding): string[] {
  return [topics.do, topics.stop, topics.ask].flatMap((topic) => (topic === null ? [] : anyInTopic(topic)));
}

type Contacts = ReadonlyMap<string, Value>;

/** Where one number tells all outputs, it is about those that change; the first answers where none does. */
export function meantBy(
  bindings: readonly BoardBinding[],
  topic: string,
  payload: Buffer,
  contacts: Contacts,
): readonly BoardBinding[] {
  const told = bindings.filter(({ firmware, topics }) => firmware.bitOf && topics.do === topic);
  if (told.length === 0) return bindings;
  const changing = told.filter(({ slug, firmware }) => firmware.hear(payload)?.to !== contacts.get(slug));
  return changing.length > 0 ? changing : told.slice(0, 1);
}

/** What the other outputs add to a report that tells all. */
export function othersIn(
  bindings: readonly BoardBinding[],
  { slug: own, topics }: BoardBinding,
  contacts: Contacts,
): number {
  const others = bindings.filter((other) => other.slug !== own && other.topics.is === topics.is);
  return others.reduce((sum, { slug, rest, firmware }) => sum + (firmware.bitOf?.(contacts.get(slug) ?? rest) ?? 0), 0);
}

/** The topic of what it says of a value or a command. */
export function topicSaying(pattern: string, { aside }: BoardBinding, id: string | null, to?: Value): string {
  if (!saysInTopic(pattern)) return pattern;
  const named = { id: id ?? "none", number: id ?? "0", result: "ok" };
  return fillInTopic(pattern, to === undefined ? named : { ...named, value: String(aside.write(to)) });
}

function restOf({ range, rest }: ChannelKind): Value {
  return range?.ofChannel ? range.least : rest;
}

/** The topic and the two payloads of its presence; null: it has none. */
export function presenceOf(site: string, device: string, { topics, codec }: Profile) {
  if (topics.here === null) return null;
  const topic = fillTopic(topics.here, { site: { slug: site }, device: { slug: device }, slug: "", index: 0 });
  const say = (up: boolean, boot: string) => Buffer.from(encodePresence(codec, { up, boot }));
  return { topic, say };
}
