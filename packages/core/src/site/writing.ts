/** What is written to a device for one command: its setpoint on the command topic, or the question what it is. */
import { kindOf } from "../channel/index.ts";
import { actionTo } from "../channel/kind.ts";
import { type Accepted, agrees, isColour, READ, type Value } from "../channel/value.ts";
import type { DeliveryPolicy } from "../delivery/policy.ts";
import { type CommandId, shortNumber } from "../id.ts";
import type { ChannelEntry } from "./entry.ts";
import { fillInTopic } from "./in-topic.ts";
import type { TopicsInSnapshot } from "./snapshot-topics.ts";

export interface Writing {
  readonly topic: string;
  readonly payload: Uint8Array;
}

/**
 * The value that is written so that a channel becomes `to`.
 *
 * @param claimed what the device says that its own output is, where something else sees the channel; null: it never said
 * @returns null when nobody can say
 */
export function writtenFor({ drive }: Pick<ChannelEntry, "drive">, to: Value, claimed: Value | null): Value | null {
  if (drive === "set" || to === READ) return to;
  if (drive === "impulse") return "pulse";
  if (claimed !== "on" && claimed !== "off") return null;
  return claimed === "on" ? "off" : "on";
}

/**
 * @param forMs how long the device should keep it so, ms; null: for good, or the device does not time itself
 * @param others what the other channels of the board are, where one number tells all: see `othersOf`
 * @returns null when the channel has no topic for this
 */
export function writingFor(
  channel: ChannelEntry,
  id: CommandId,
  to: Value,
  forMs: number | null,
  others?: number,
): Writing | null {
  const { codec, policy } = channel;
  const topic = topicOf(channel, id, to);
  if (topic === null) return null;
  if (to === READ) return { topic, payload: codec.encodeAsk(id) };
  return { topic, payload: codec.encode(id, to, policy.timesItself ? forMs : null, others) };
}

/** The other outputs that each command to this one tells as well; most boards have none. */
export function toldWith(
  { id, codec, topics, node }: Pick<ChannelEntry, "id" | "codec" | "topics" | "node">,
  { byTopic }: Pick<TopicsInSnapshot, "byTopic">,
): readonly ChannelEntry[] {
  if (codec.bitOf === null || topics.do === null) return [];
  return (byTopic.get(topics.do)?.do ?? []).filter((other) => other.id !== id && other.node === node);
}

/**
 * What the other outputs of its board add to a command that tells all of them.
 *
 * @param writtenOf what another channel is to be written as; null: nobody can say
 * @returns undefined where a command tells one channel only; null when one of the others is not known
 */
export function othersOf(
  channel: ChannelEntry,
  snapshot: Pick<TopicsInSnapshot, "byTopic">,
  writtenOf: (other: ChannelEntry) => Value | null,
): number | null | undefined {
  if (channel.codec.bitOf === null) return undefined;
  let others = 0;
  for (const other of toldWith(channel, snapshot)) {
    const value = writtenOf(other);
    if (value === null) return null;
    others += other.codec.bitOf?.(value) ?? 0;
  }
  return others;
}

/** The very topic of one command. */
function topicOf(channel: ChannelEntry, id: CommandId, to: Value): string | null {
  const topic = topicFor(channel, to);
  const { inTopic, topics, codec } = channel;
  if (inTopic.do === null || topic !== topics.do) return topic;
  return fillInTopic(inTopic.do, { value: String(codec.aside.write(to)), id, number: String(shortNumber(id)) });
}

/** Where it is written, or the filter that covers where; null when the channel has no topic for this. */
export function topicFor({ kind, topics }: Pick<ChannelEntry, "kind" | "topics">, to: Value): string | null {
  if (to === READ) return topics.ask;
  return topics.stop !== null && actionTo(kindOf(kind), to) === "stop" ? topics.stop : topics.do;
}

/**
 * How hard a command is tried. A reading is proven by the report and by nothing less, whatever target stage setpoints have. That
 * something stands between its end contacts, these cannot tell.
 */
export function policyFor({ policy, seenBy, topics }: ChannelEntry, to: Value): DeliveryPolicy {
  if (to === READ) return { ...policy, targetStage: "confirmed" };
  if (to !== "stop" || seenBy === null || policy.targetStage !== "confirmed") return policy;
  return { ...policy, targetStage: topics.done !== null || topics.is !== null ? "acknowledged" : "published" };
}

/** What of its device's reports is this setpoint. */
export function acceptedFor({ codec, policy }: Pick<ChannelEntry, "codec" | "policy">, to: Value): Accepted {
  if (typeof to === "number") return codec.levels.spanAround(to, policy.tolerance);
  if (!isColour(to)) return null;
  const written = codec.levels.colourWritten(to);
  return written === to ? null : written;
}

/** Whether a channel is as it was commanded: the one comparison of all that is shown, tried and confirmed. */
export function isAsCommanded(
  channel: Pick<ChannelEntry, "codec" | "policy">,
  observed: Value,
  commanded: Value,
): boolean {
  return agrees(observed, commanded, acceptedFor(channel, commanded));
}

/** Whether only the answer to a question proves a setpoint that the channel has already; see `CommandOrder.readsBack`. */
export function readsBack(channel: ChannelEntry, to: Value): boolean {
  return saysNothingOfTheSame(channel, to) && channel.topics.ask !== null;
}

/** Whether its device says nothing at all where a setpoint changes nothing, and cannot be asked; see `CommandOrder.silentIfSame`. */
export function isSilentIfSame(channel: ChannelEntry, to: Value): boolean {
  return saysNothingOfTheSame(channel, to) && channel.topics.ask === null;
}

function saysNothingOfTheSame({ policy, topics, seenBy }: ChannelEntry, to: Value): boolean {
  return to !== READ && policy.reports === "onChange" && topics.done === null && seenBy === null;
}

/** Whether its device acknowledges nothing, neither in words nor by what it says of its own output. */
export function isReportOnly({ topics, seenBy }: Pick<ChannelEntry, "topics" | "seenBy">, to: Value): boolean {
  return to !== READ && topics.done === null && (seenBy === null || topics.is === null);
}
