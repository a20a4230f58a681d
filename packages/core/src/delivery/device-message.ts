/** What a message on a topic of ours says, and of which channels: the first step of everything that a device sends. Pure. */
import { isGarbled, type Presence } from "../codec/codec.ts";
import { decodePresence } from "../codec/index.ts";
import { type BesidePayload, type MessageRead, readMessage } from "../codec/message.ts";
import { answersByTurns, type ChannelEntry } from "../site/entry.ts";
import { readInTopic } from "../site/in-topic.ts";
import type { TopicUse } from "../site/snapshot-topics.ts";

/** What a message says of one channel. */
export interface SaidOfChannel {
  readonly channel: ChannelEntry;
  readonly message: MessageRead;
}

export type DeviceMessage =
  | { readonly says: "presence"; readonly device: string; readonly presence: Presence }
  /** An acknowledgement or a report. `byTurns`: nothing but its turn, or the id in it, tells whose it is. */
  | { readonly says: "evidence"; readonly byTurns: boolean; readonly about: readonly SaidOfChannel[] }
  /** A command that is not ours, or is left from before. */
  | { readonly says: "command"; readonly channels: readonly ChannelEntry[] }
  /** It means nothing; `channels` are those that this topic is for. */
  | { readonly says: "nothing"; readonly why: string; readonly channels: readonly ChannelEntry[] };

/**
 * @param use what the topic is for
 * @returns null: there is nothing to it, such as the end of a retained command
 * @example readDeviceMessage(useOf("alder-row/wren/here"), bytes of {"up":true}) // → { says: "presence", … }
 */
export function readDeviceMessage(
  use: TopicUse,
  payload: Uint8Array,
  topic: string,
  correlation: string | null = null,
): DeviceMessage | null {
  const speaks = use.done.length > 0 || use.is.length > 0;
  if (use.here) {
    const presence = decodePresence(use.here.profile.codec, payload);
    if (!isGarbled(presence)) return { says: "presence", device: use.here.device, presence };
    if (!speaks) return { says: "nothing", why: presence.garbled, channels: [] };
  }
  if (speaks) return readSaid(use, payload, topic, correlation);
  return use.do.length > 0 && payload.length > 0 ? { says: "command", channels: use.do } : null;
}

function readSaid(
  { done, is }: TopicUse,
  payload: Uint8Array,
  topic: string,
  correlation: string | null,
): DeviceMessage {
  // Its turn, or the id in it, tells whose an acknowledgement on a shared topic is: it is told once, not to each.
  const [first] = done;
  const byTurns = first !== undefined && answersByTurns(first) && is.length === 0;
  const channels = byTurns ? [first] : everyOf(is, done);
  const about: SaidOfChannel[] = [];
  for (const channel of channels) {
    const roles = { done: done.includes(channel), is: is.includes(channel) };
    const message = readMessage(channel.codec, roles, payload, besideOf(channel, topic, correlation));
    if (message !== null) about.push({ channel, message });
  }
  if (about.length > 0) return { says: "evidence", byTurns, about };
  return { says: "nothing", why: "it names none of the channels of this topic", channels };
}

/** Most messages say all in their payload: nothing is made for them. */
export function besideOf(
  { inTopic, profile }: Pick<ChannelEntry, "inTopic" | "profile">,
  topic: string,
  correlation: string | null,
): BesidePayload | undefined {
  const own = profile.requestResponse === true ? correlation : null;
  if (inTopic.done === null && inTopic.is === null && own === null) return undefined;
  const saidBy = (pattern: string | null) => (pattern === null ? {} : (readInTopic(pattern, topic) ?? {}));
  return { done: saidBy(inTopic.done), is: saidBy(inTopic.is), correlation: own };
}

/** Most topics have one use, and are heard a thousand times a second. */
function everyOf(is: readonly ChannelEntry[], done: readonly ChannelEntry[]): readonly ChannelEntry[] {
  if (done.length === 0) return is;
  return is.length === 0 ? done : [...new Set([...is, ...done])];
}
