/** One absolute setpoint for one channel, with everything that is known of its way so far. */
import type { Accepted, Value } from "../channel/value.ts";
import type { ChannelId, CommandId, RequestId } from "../id.ts";
import type { DeliveryPolicy } from "./policy.ts";
import type { Remark } from "./remark.ts";
import type { End, Stage } from "./stage.ts";

/**
 * What a command does to the output:
 * - set: the payload says what it shall be
 * - impulse: each write changes it to the other state, as an impulse relay or a one-button opener does
 * - flip: the output is one of two switches of a lamp: it is set to the other of what it is now
 */
export type Drive = "set" | "impulse" | "flip";

/** What a command was told to be, and by which request, before anything happened to it. */
export interface CommandOrder {
  readonly id: CommandId;
  readonly requestId: RequestId;
  readonly channel: ChannelId;
  /** Its place in the lane, given by the journal: a higher one is newer. */
  readonly seq: number;
  readonly to: Value;
  readonly policy: DeliveryPolicy;
  /** When it was asked for, ms since 1970. Its time to live counts from here, before and after a restart. */
  readonly askedAt: number;
  /** What goes out, as the trace will show it. */
  readonly wire: RawMessage;
  /** Overtakes whatever is in flight, never expires, and is tried until it is proven. */
  readonly urgent: boolean;
  /** Doing it twice would do harm: it is written once at most, and only after that is on record. */
  readonly once: boolean;
  /** How long the device should keep it so, ms; null: for good. */
  readonly forMs: number | null;
  /** Its device acknowledges without naming the command: such an answer belongs to the oldest write unanswered. */
  readonly anonymous: boolean;
  /** How long it may wait for its interlocked partners to be seen off, ms; null: it has none. */
  readonly clearWithinMs: number | null;
  /**
   * Its device acknowledges nothing and reports changes only, but can be asked: where the channel is so already, the
   * answer to that is the only proof there is.
   */
  readonly readsBack: boolean;
  /** Its device reports changes only, acknowledges nothing and cannot be asked: where the channel is so already, it says nothing. */
  readonly silentIfSame: boolean;
  /** Its device acknowledges nothing: a report is all that ever comes of it. */
  readonly reportOnly: boolean;
  /** It is retained for a board that sleeps: that nobody listens now is no failure. */
  readonly retained: boolean;
  /** Of an urgent one: how long it is tried, ms from the asking; null: until it is proven or a person cancels it. */
  readonly insistsMs: number | null;
  /** What of a report proves it. */
  readonly accepted: Accepted;
  /** Unless it is `set`: it is written only while the channel is seen to be otherwise, and never twice. */
  readonly drive: Drive;
  /** The value that is written for it: an impulse, the other of what a switch is; null: nobody knows what to write. */
  readonly writes: Value | null;
}

/** Raw bytes as text, as they were seen on the broker. */
export interface RawMessage {
  readonly topic: string;
  readonly payload: string;
}

/** One thing that happened to a command, in the order in which it was learnt. */
export interface Hop {
  /** ms since 1970. */
  readonly at: number;
  readonly kind:
    | "accepted"
    | "recovered"
    | "sending"
    | "sent"
    | "published"
    | "acknowledged"
    | "refused"
    | "doubted"
    | "confirmed"
    | "contradicted"
    | "ignored"
    | "unchanged"
    | "link-lost"
    | "locked-out"
    | "closed"
    | "ended";
  /** Which write this belongs to, from 1. */
  readonly attempt?: number;
  /** A result code: the device's own, or the MQTT 5 reason code of a PUBACK. */
  readonly code?: number;
  readonly wire?: RawMessage;
  /** Of `sent`: the device was asked in the same moment what it is, for it seemed to be so already. */
  readonly asked?: true;
  /** Of `confirmed`: the channel was so already, as the device had said before. */
  readonly already?: true;
  /** Of `confirmed`: measured by something else than its own device. */
  readonly measured?: true;
  /** Of `confirmed`: what was reported, where that is another value than the commanded one. */
  readonly value?: Value;
  /** Of `ignored`: what it was taken for, and why it proved nothing. */
  readonly remark?: Remark;
  /** Of `closed`: who closed it, and why. Of `refused` and `doubted`: what was said. */
  readonly note?: string;
}

/** Why a command ended as it did. `delivered` needs none. */
export const REASONS = [
  "replaced-before-sending",
  "replaced-after-sending",
  "never-sent-in-time",
  "sending-uncertain",
  "no-acknowledgement",
  "no-broker-receipt",
  "no-report",
  "contradicted",
  "not-arrived",
  "device-refused",
  "nobody-listens",
  "broker-refused",
  "locked-out",
  "interlocked",
  "interlock-unproven",
  "device-absent",
  "nothing-to-start-from",
  "state-unknown",
  "others-unknown",
  "midway",
  "closed-by-person",
  "restored",
  "removed",
] as const;
export type Reason = (typeof REASONS)[number];

export interface Command extends CommandOrder {
  readonly stage: Stage;
  /** When each stage was proven, ms since 1970; null for a hop that was never seen. */
  readonly publishedAt: number | null;
  readonly acknowledgedAt: number | null;
  readonly confirmedAt: number | null;
  /** Writes so far. */
  readonly attempts: number;
  /** When it was last written in this process, ms since 1970. */
  readonly sentAt: number | null;
  /** The link went down after the last write, so its answer may never come. */
  readonly lostLink: boolean;
  /** Whoever passed the last write on has said that no answer will come. */
  readonly doubted: boolean;
  /** Its channel was locked out after it was written: it is not written again. */
  readonly held: boolean;
  /** Of one that is written once: `asked` until the journal has that it is about to be written, then `kept`. */
  readonly sending: "asked" | "kept" | null;
  /** After a restart: it may have been written although no write is on record. */
  readonly maybeSent: boolean;
  /** From when the device's report is owed, ms since 1970: the acknowledgement, or a restart after it. */
  readonly watchedFrom: number | null;
  /** The latest live report that says otherwise; a matching one clears it. */
  readonly contradiction: Value | null;
  /** Of a stop: the position that was reported last, and when first, ms since 1970. */
  readonly stood: { readonly value: number; readonly at: number } | null;
  readonly end: End | null;
  readonly reason: Reason | null;
  readonly endedAt: number | null;
  readonly hops: readonly Hop[];
}

/**
 * A command as it is when its row is durable and nothing else has happened.
 *
 * @param acceptedAt when the journal's commit returned, ms since 1970
 */
export function newCommand(order: CommandOrder, acceptedAt: number): Command {
  // Written out: an object that starts as a spread of another is several times slower to make and to copy.
  return {
    id: order.id,
    requestId: order.requestId,
    channel: order.channel,
    seq: order.seq,
    to: order.to,
    policy: order.policy,
    askedAt: order.askedAt,
    wire: order.wire,
    urgent: order.urgent,
    once: order.once,
    forMs: order.forMs,
    anonymous: order.anonymous,
    clearWithinMs: order.clearWithinMs,
    readsBack: order.readsBack,
    silentIfSame: order.silentIfSame,
    reportOnly: order.reportOnly,
    retained: order.retained,
    insistsMs: order.insistsMs,
    accepted: order.accepted,
    drive: order.drive,
    writes: order.writes,
    stage: "accepted",
    publishedAt: null,
    acknowledgedAt: null,
    confirmedAt: null,
    attempts: 0,
    sentAt: null,
    lostLink: false,
    doubted: false,
    held: false,
    sending: null,
    maybeSent: false,
    watchedFrom: null,
    contradiction: null,
    stood: null,
    end: null,
    reason: null,
    endedAt: null,
    hops: [{ at: acceptedAt, kind: "accepted" }],
  };
}

/** A command in the making: changed by whoever made it, and by nobody else once it is handed on. */
export type CommandDraft = { -readonly [Field in keyof Command]: Command[Field] };

/**
 * A copy to be changed. Written out, and the same shape as `newCommand` makes: a command is copied at each step of its way, and
 * what starts as a spread is slow to make and slow to read ever after.
 */
export function copyOf(command: Command): CommandDraft {
  return {
    id: command.id,
    requestId: command.requestId,
    channel: command.channel,
    seq: command.seq,
    to: command.to,
    policy: command.policy,
    askedAt: command.askedAt,
    wire: command.wire,
    urgent: command.urgent,
    once: command.once,
    forMs: command.forMs,
    anonymous: command.anonymous,
    clearWithinMs: command.clearWithinMs,
    readsBack: command.readsBack,
    silentIfSame: command.silentIfSame,
    reportOnly: command.reportOnly,
    retained: command.retained,
    insistsMs: command.insistsMs,
    accepted: command.accepted,
    drive: command.drive,
    writes: command.writes,
    stage: command.stage,
    publishedAt: command.publishedAt,
    acknowledgedAt: command.acknowledgedAt,
    confirmedAt: command.confirmedAt,
    attempts: command.attempts,
    sentAt: command.sentAt,
    lostLink: command.lostLink,
    doubted: command.doubted,
    held: command.held,
    sending: command.sending,
    maybeSent: command.maybeSent,
    watchedFrom: command.watchedFrom,
    contradiction: command.contradiction,
    stood: command.stood,
    end: command.end,
    reason: command.reason,
    endedAt: command.endedAt,
    hops: command.hops,
  };
}

/** Whether it was written to a socket, or may have been: then nobody can claim that it did not happen. */
export function wasSent(command: Command): boolean {
  return command.attempts > 0 || command.maybeSent;
}
