/** Orders for lanes under test, with ids that tell their number. */
import {
  type ChannelId,
  type CommandId,
  type CommandOrder,
  type DeliveryPolicy,
  defaultPolicy,
  type Moment,
  type RequestId,
  type Value,
} from "../../src/index.ts";

export const CHANNEL = 7 as ChannelId;
export const START = 1_800_000_000_000;

export function commandId(seq: number): CommandId {
  return `00000000-0000-7000-8000-${String(seq).padStart(12, "0")}` as CommandId;
}

/** A moment at which nothing stands in the way. */
export function moment(now: number, more: Partial<Moment> = {}): Moment {
  return { now, linkUp: true, known: () => null, clear: () => true, ...more };
}

export function order(
  seq: number,
  to: Value,
  askedAt: number,
  policy: Partial<DeliveryPolicy> = {},
  more: Partial<CommandOrder> = {},
): CommandOrder {
  const id = commandId(seq);
  const requestId = id as string as RequestId;
  const wire = { topic: "alder-row/finch/porch/do", payload: `{"id":"${id}","to":"${to}"}` };
  return {
    id,
    requestId,
    channel: CHANNEL,
    seq,
    to,
    policy: { ...defaultPolicy, ...policy },
    askedAt,
    wire,
    urgent: false,
    once: false,
    forMs: null,
    anonymous: false,
    clearWithinMs: null,
    readsBack: false,
    silentIfSame: false,
    reportOnly: false,
    retained: false,
    insistsMs: null,
    accepted: typeof to === "number" ? [to - (policy.tolerance ?? 0), to + (policy.tolerance ?? 0)] : null,
    drive: "set",
    writes: to,
    ...more,
  };
}
