/** What a message on a topic is to us. */
import type { KindName } from "../channel/index.ts";
import { isGarbled } from "../codec/codec.ts";
import { decodePresence } from "../codec/index.ts";
import { type MessageRead, readMessage } from "../codec/message.ts";
import { payloadText } from "../codec/utf8.ts";
import { besideOf } from "../delivery/device-message.ts";
import type { CommandId } from "../id.ts";
import { type ChannelEntry, channelWords } from "./entry.ts";
import { useOf } from "./in-topic.ts";
import type { Snapshot } from "./snapshot.ts";
import type { TopicUse } from "./snapshot-topics.ts";

/** What a message is, as far as the model tells. */
export interface TopicMeaning {
  /** "do": a command · "ask": a question what it is · "done": an answer · "is": a report · "here": presence · null: nobody claims the topic */
  readonly role: "do" | "ask" | "done" | "is" | "here" | null;
  readonly site: string | null;
  /** The device's address. */
  readonly device: string | null;
  /** The channel's address; null where it is not about one channel. */
  readonly channel: string | null;
  readonly kind: KindName | null;
  /** In words: "on, by hand", "no, code 4", "offline"; null where it has no meaning to us. */
  readonly meaning: string | null;
  /** Why it cannot be read, in words; null: it can, or has no meaning to us. */
  readonly garbled: string | null;
  /** The command whose id stands in the payload. */
  readonly commandId: CommandId | null;
}

const ID = /[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}/;

/** Reads a message of the wire. Never throws, whatever the payload is. */
export function readTopic(snapshot: Snapshot, topic: string, payload: Uint8Array): TopicMeaning {
  const commandId = (ID.exec(payloadText(payload))?.[0] ?? null) as CommandId | null;
  const use = useOf(snapshot, topic);
  return { ...(use ? meaningFor(use, payload, topic) : NOBODYS), commandId };
}

const NOBODYS = {
  role: null,
  site: null,
  device: null,
  channel: null,
  kind: null,
  meaning: null,
  garbled: null,
} as const;
type Seen = Omit<TopicMeaning, "commandId">;

/** What devices say comes before what they are told: where one topic serves both, our own messages do not come back. */
function meaningFor(use: TopicUse, payload: Uint8Array, topic: string): Seen {
  const speaks = use.done.length > 0 || use.is.length > 0;
  const presence = use.here && presenceSaid(use.here, payload);
  if (presence && (presence.garbled === null || !speaks)) return presence;
  if (speaks) return saidBy(use, payload, topic);
  const [role, channels, meaning] =
    use.do.length > 0 ? (["do", use.do, "a command"] as const) : (["ask", use.ask, "asks what it is"] as const);
  const only = channels.length === 1 ? channels[0] : undefined;
  // What a command on a shared topic is for stands in a form that only the device reads.
  const about = { channel: only?.address ?? null, kind: only?.kind ?? null };
  return { ...placeOf(channels[0]), role, ...about, meaning, garbled: null };
}

function presenceSaid({ device, profile }: NonNullable<TopicUse["here"]>, payload: Uint8Array): Seen {
  const here = decodePresence(profile.codec, payload);
  const garbled = isGarbled(here) ? here.garbled : null;
  const meaning = isGarbled(here) ? garbledWords(here.garbled) : here.up ? "online" : "offline";
  return { ...NOBODYS, role: "here", site: device.split("/")[0] ?? null, device, meaning, garbled };
}

/** Which of the channels that share the topic it is about, and what it says. */
function saidBy({ done, is }: TopicUse, payload: Uint8Array, topic: string): Seen {
  const channels = [...new Set([...is, ...done])];
  const read = channels.flatMap((channel) => {
    const roles = { done: done.includes(channel), is: is.includes(channel) };
    const message = readMessage(channel.codec, roles, payload, besideOf(channel, topic, null));
    return message === null ? [] : { channel, message };
  });
  const told = read.find(({ message }) => message.garbled === null) ?? read[0];
  const one = channels.length === 1 ? channels[0] : told?.channel;
  const role = told?.message.answer || (is.length === 0 && done.length > 0) ? "done" : "is";
  return {
    ...placeOf(channels[0]),
    role,
    channel: one?.address ?? null,
    kind: one?.kind ?? null,
    meaning: told ? meaningOf(told.channel, told.message) : null,
    garbled: told?.message.garbled ?? null,
  };
}

function placeOf(channel: ChannelEntry | undefined): Pick<Seen, "site" | "device"> {
  return { site: channel?.site.slug ?? null, device: channel?.device.address ?? null };
}

function meaningOf(channel: ChannelEntry, { answer, report, garbled }: MessageRead): string {
  if (garbled !== null) return garbledWords(garbled);
  const said: string[] = [];
  if (answer) {
    const code = answer.code === null ? "" : `, code ${answer.code}`;
    said.push(`${answer.ok === null ? "passed on" : answer.ok ? "done" : "refused"}${code}`);
  }
  if (report) {
    const words = channelWords(channel, report.value);
    said.push(report.by === null || report.by === "command" ? words : `${words}, by ${report.by}`);
  }
  return said.join("; ");
}

function garbledWords(why: string): string {
  return `garbled: ${why}`;
}
