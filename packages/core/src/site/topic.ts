/** What a message on a topic is to us. */
import type { KindName } from "../channel/index.ts";
import { isGarbled } from "../codec/codec.ts";
import { decodePresence } from "../codec/index.ts";
import { payloadText } from "../codec/utf8.ts";
import type { CommandId } from "../id.ts";
import { type ChannelEntry, channelWords } from "./entry.ts";
import { covers } from "./filter.ts";
import type { Snapshot, TopicUse } from "./snapshot.ts";

/** What a message is, as far as the model tells. */
export interface Sighting {
  /** "do": a command · "ask": a question what it is · "done": an answer · "is": a report · "here": presence · null: nobody claims the topic */
  readonly role: "do" | "ask" | "done" | "is" | "here" | null;
  readonly site: string | null;
  /** The device's address. */
  readonly device: string | null;
  /** The channel's address; null where it is not about one channel. */
  readonly channel: string | null;
  readonly kind: KindName | null;
  /** In words: "on, by hand", "no, code 4", "gone"; null where it has no meaning to us. */
  readonly meaning: string | null;
  /** The command whose id stands in the payload. */
  readonly commandId: CommandId | null;
}

const ID = /[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}/;

/** Reads a message of the wire. Never throws, whatever the payload is. */
export function sight({ byTopic }: Snapshot, topic: string, payload: Uint8Array): Sighting {
  const commandId = (ID.exec(payloadText(payload))?.[0] ?? null) as CommandId | null;
  const use = byTopic.get(topic);
  if (!use) return { ...NOBODYS, commandId };
  if (use.role === "here") {
    const here = decodePresence(use.profile.codec, payload);
    const meaning = isGarbled(here) ? `garbled: ${here.garbled}` : here.up ? "is here" : "gone";
    return { ...NOBODYS, role: "here", site: use.device.split("/")[0] ?? null, device: use.device, meaning, commandId };
  }
  return { ...sightOf(use.channels, use.role, payload), commandId };
}

const NOBODYS = { role: null, site: null, device: null, channel: null, kind: null, meaning: null } as const;

/** Which of the channels that share the topic it is about, and what it says. */
function sightOf(
  channels: readonly ChannelEntry[],
  role: Exclude<TopicUse["role"], "here">,
  payload: Uint8Array,
): Omit<Sighting, "commandId"> {
  const [first] = channels;
  const read = channels.map((channel) => ({ channel, meaning: meaningOf(channel, role, payload) }));
  const told = read.find(({ meaning }) => meaning !== null);
  // What a command on a shared topic is for stands in a form that only the device reads.
  const one = channels.length === 1 ? first : role === "do" || role === "ask" ? undefined : told?.channel;
  return {
    role,
    site: first?.site.slug ?? null,
    device: first?.device.address ?? null,
    channel: one?.address ?? null,
    kind: one?.kind ?? null,
    meaning: told?.meaning ?? null,
  };
}

function meaningOf(channel: ChannelEntry, role: Exclude<TopicUse["role"], "here">, payload: Uint8Array): string | null {
  if (role === "do") return "a command";
  if (role === "ask") return "asks what it is";
  const read = role === "is" ? channel.codec.decodeIs(payload) : channel.codec.decodeDone(payload);
  if (read === null) return null;
  if (isGarbled(read)) return `garbled: ${read.garbled}`;
  if ("value" in read) {
    const words = channelWords(channel, read.value);
    return read.by === null || read.by === "command" ? words : `${words}, by ${read.by}`;
  }
  const code = read.code === null ? "" : `, code ${read.code}`;
  return `${read.ok ? "done" : "refused"}${code}`;
}

/** Whether a topic is one on which devices are told, or tell. */
export function isDeviceTopic({ filters, doFilters }: Snapshot, topic: string): boolean {
  const isCovered = (filter: string) => covers(filter, topic);
  return filters.some(isCovered) || doFilters.some(isCovered);
}
