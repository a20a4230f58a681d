/**
 * What is really written for a channel, and which outputs obey it. A lock-out and an interlock hold an output: what a channel is called,
 * and in which device it is described, is nothing to the relay that hears a message. Pure.
 */
import { kindOfChannel } from "../channel/index.ts";
import type { NumberRange } from "../channel/kind.ts";
import { READ, type Value } from "../channel/value.ts";
import { bindFirmware } from "../codec/index.ts";
import type { CommandId } from "../id.ts";
import { type ChannelEntry, commandTopicsOf } from "./entry.ts";
import { covers } from "./filter.ts";
import { overlapping } from "./in-topic.ts";
import type { TopicsInSnapshot } from "./snapshot-topics.ts";
import { type Writing, writingFor } from "./writing.ts";

const SAMPLE = "00000000-0000-7000-8000-000000000000" as CommandId;

/** Most levels of a channel that are looked at, evenly spread. */
const MOST_LEVELS = 256;

/**
 * The messages that tell a channel: each value that one word asks for, and the ends of its range.
 *
 * @param levels whether each level between the ends counts too
 */
export function commandsOf(channel: ChannelEntry, levels = false): Writing[] {
  const { actions, full, rest, range } = kindOfChannel(channel);
  const asked = Object.values(actions).flatMap((action) => (action.asks === "to" ? [action.to] : []));
  const between = levels && range ? levelsIn(range) : [];
  // Where a message tells all outputs of a board, a 0 is told to each of them.
  const isTold = (value: Value) => channel.codec.bitOf?.(value) !== 0;
  const values = [...new Set<Value>([full, rest, ...asked, ...between])].filter(isTold);
  return values.flatMap((value) => writingFor(channel, SAMPLE, value, null) ?? []);
}

function levelsIn({ least, most, step = 1 }: NumberRange): number[] {
  const count = Math.floor((most - least) / step) + 1;
  const every = Math.ceil(count / MOST_LEVELS);
  return Array.from({ length: Math.ceil(count / every) }, (_, at) => least + at * every * step);
}

/** The question what a channel is; null: its device cannot be asked. */
export function stateQueryOf(channel: ChannelEntry): Writing | null {
  return writingFor(channel, SAMPLE, READ, null);
}

/**
 * Whether the output of a channel acts on a message. Where payloads do not name their channel, it acts on whatever comes on its command
 * topics.
 */
export function obeys(channel: ChannelEntry, { topic, payload }: Writing): boolean {
  if (!commandTopicsOf(channel).some((own) => covers(own, topic))) return false;
  if (!channel.codec.namesChannel.do) return true;
  return bindFirmware(channel.profile.codec, channel.binding).hear(payload) !== null;
}

/** Other channels some message of which the output of this one acts on. A description that makes any is refused; there may be older ones. */
export function twinsOf(channel: ChannelEntry, snapshot: Pick<TopicsInSnapshot, "byTopic" | "shapes">): ChannelEntry[] {
  const others = new Set<ChannelEntry>();
  for (const own of commandTopicsOf(channel)) {
    for (const topic of overlapping(snapshot, own)) {
      const use = snapshot.byTopic.get(topic);
      for (const other of [...(use?.do ?? []), ...(use?.ask ?? [])]) if (other.id !== channel.id) others.add(other);
    }
  }
  const messagesOf = (other: ChannelEntry) => [...commandsOf(other), stateQueryOf(other) ?? []].flat();
  return [...others].filter((other) => messagesOf(other).some((message) => obeys(channel, message)));
}
