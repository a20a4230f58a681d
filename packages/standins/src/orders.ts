/** What a stand-in board hears and says: by the profile that describes it, as its makers would have written it. */
import {
  bindFirmware,
  encodePresence,
  type Firmware,
  fillTopic,
  type KindName,
  kindOf,
  type Profile,
} from "@bold-relay/core";

/** One channel of a board: what it speaks, and on which topics. */
export interface BoardBinding {
  readonly slug: string;
  readonly kind: KindName;
  readonly firmware: Firmware;
  readonly topics: Readonly<Record<"do" | "stop" | "ask" | "done" | "is", string | null>>;
}

export interface BoardChannel {
  readonly slug: string;
  readonly kind?: KindName;
  readonly index?: number;
  readonly reversed?: boolean;
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
  return channels.map(({ slug, kind = "relay", index: given, reversed = false }, place) => {
    const index = given ?? place + (profile.indexFrom ?? 1);
    const topic = (pattern: string | null) =>
      pattern === null ? null : fillTopic(pattern, { site: { slug: site }, device: { slug: device }, slug, index });
    const { do: commands, stop = null, ask = null, done, is } = profile.topics;
    const firmware = bindFirmware(profile.codec, { slug, index, kind: kindOf(kind), reversed });
    const writes = { done: topic(done), is: topic(is) };
    return { slug, kind, firmware, topics: { do: topic(commands), stop: topic(stop), ask: topic(ask), ...writes } };
  });
}

/** The topic and the two payloads of its presence; null: it has none. */
export function presenceOf(site: string, device: string, { topics, codec }: Profile) {
  if (topics.here === null) return null;
  const topic = fillTopic(topics.here, { site: { slug: site }, device: { slug: device }, slug: "", index: 0 });
  const say = (up: boolean, boot: string) => Buffer.from(encodePresence(codec, { up, boot }));
  return { topic, say };
}
