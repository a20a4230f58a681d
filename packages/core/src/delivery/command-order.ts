/** What a command orders, from what is durable of it and the channel as it is configured now. */
import type { Order } from "../ask/decide.ts";
import { kindOf } from "../channel/index.ts";
import { READ, type Value } from "../channel/value.ts";
import { payloadText } from "../codec/utf8.ts";
import type { CommandId } from "../id.ts";
import { policyFor, readsBack, writingFor, writtenFor } from "../site/writing.ts";
import type { CommandOrder } from "./command.ts";

type Terms = Pick<Order, "to" | "urgent" | "forMs" | "clearWithinMs">;

/**
 * What a command orders, from what is durable of it and the channel as it is configured now. The same for a new one and one
 * found after a restart.
 *
 * @param claimed what the device says that its own output is
 */
export function commandOrder(
  channel: Order["channel"],
  id: CommandId,
  { to, urgent, forMs, clearWithinMs }: Terms,
  { requestId, seq, askedAt }: Pick<CommandOrder, "requestId" | "seq" | "askedAt">,
  claimed: Value | null,
): CommandOrder {
  const { kind, codec, topics, drive } = channel;
  const writes = writtenFor(channel, to, claimed);
  const writing = writes === null ? null : writingFor(channel, id, writes, forMs);
  return {
    id,
    requestId,
    channel: channel.id,
    seq,
    to,
    policy: policyFor(channel, to),
    askedAt,
    urgent,
    once: !kindOf(kind).repeatable || (drive !== "set" && to !== READ),
    forMs,
    anonymous: topics.done !== null && !codec.namesCommand && to !== READ,
    clearWithinMs,
    readsBack: readsBack(channel, to),
    drive: to === READ ? "set" : drive,
    writes,
    wire: { topic: writing?.topic ?? "", payload: writing ? payloadText(writing.payload) : "" },
  };
}
