/** What is written to a device for one command: its setpoint on the command topic, or the question what it is. */
import { READ, type Value } from "../channel/value.ts";
import type { DeliveryPolicy } from "../delivery/policy.ts";
import type { CommandId } from "../id.ts";
import type { ChannelEntry } from "./entry.ts";

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
 * @returns null when the channel has no topic for this
 */
export function writingFor(channel: ChannelEntry, id: CommandId, to: Value, forMs: number | null): Writing | null {
  const { topics, codec, policy } = channel;
  if (to === READ) return topics.ask === null ? null : { topic: topics.ask, payload: codec.encodeAsk(id) };
  if (topics.do === null) return null;
  return { topic: topics.do, payload: codec.encode(id, to, policy.timesItself ? forMs : null) };
}

/** How hard a command is tried: a reading is proven by the report and by nothing less, whatever target stage setpoints have. */
export function policyFor({ policy }: ChannelEntry, to: Value): DeliveryPolicy {
  return to === READ ? { ...policy, targetStage: "confirmed" } : policy;
}

/** Whether only the answer to a question proves a setpoint that the channel has already; see `CommandOrder.readsBack`. */
export function readsBack({ policy, topics }: ChannelEntry, to: Value): boolean {
  return to !== READ && policy.reports === "onChange" && topics.ask !== null && topics.done === null;
}
