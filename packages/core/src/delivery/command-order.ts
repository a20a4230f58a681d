/** What a command orders, from what is durable of it and the channel as it is configured now. */
import type { Order } from "../ask/decide.ts";
import { kindOf } from "../channel/index.ts";
import { READ, type Value } from "../channel/value.ts";
import { payloadText } from "../codec/utf8.ts";
import type { CommandId } from "../id.ts";
import {
  acceptedFor,
  isReportOnly,
  isSilentIfSame,
  policyFor,
  readsBack,
  writingFor,
  writtenFor,
} from "../site/writing.ts";
import type { CommandOrder } from "./command.ts";

type Terms = Pick<Order, "to" | "urgent" | "forMs" | "clearWithinMs">;

/** How long a stop is tried that somebody asked for, ms. What a rule switches off for safety is tried until it is proven. */
const INSISTS_MS = 600_000;

/** Whose command it is, and where it stands in its lane. */
export interface OrderPlace extends Pick<CommandOrder, "requestId" | "seq" | "askedAt"> {
  /** A rule of the service asked for it, not a requester. */
  readonly byRule: boolean;
}

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
  { requestId, seq, askedAt, byRule }: OrderPlace,
  claimed: Value | null,
): CommandOrder {
  const { kind, namesCommand, topics, drive } = channel;
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
    anonymous: topics.done !== null && !namesCommand && to !== READ,
    clearWithinMs,
    readsBack: readsBack(channel, to),
    silentIfSame: isSilentIfSame(channel, to),
    reportOnly: isReportOnly(channel, to),
    retained: channel.profile.retainCommands === true && to !== READ,
    insistsMs: urgent && !byRule ? INSISTS_MS : null,
    accepted: acceptedFor(channel, to),
    drive: to === READ ? "set" : drive,
    writes,
    wire: { topic: writing?.topic ?? "", payload: writing ? payloadText(writing.payload) : "" },
  };
}
