/**
 * The queue of one channel, or of several whose acknowledgements cannot be told apart: at most one command in
 * flight, the newest waiting one of a channel wins, and a confirmation is watched beside it so that a slow device
 * blocks nothing. Pure; rules in README.md.
 */
import type { Value } from "../channel/value.ts";
import type { ChannelId, CommandId } from "../id.ts";
import type { Command, RawMessage } from "./command.ts";
import type { Effect, Report } from "./command-event.ts";
import type { PendingAck } from "./pending-ack.ts";
import type { Remark } from "./remark.ts";

/**
 * - waiting: accepted, and has not had its turn
 * - flight: written, and its acknowledgement still owed
 * - watched: acknowledged, and the device's report still owed
 */
export type Place = "waiting" | "flight" | "watched";

export interface Slot {
  readonly place: Place;
  readonly command: Command;
}

export interface Lane {
  /** Names the lane: its channel, or the first of the channels that share it. */
  readonly id: ChannelId;
  /** Every open command; of one channel at most one in each place. */
  readonly slots: readonly Slot[];
  /** Answers without a name that are still owed, oldest first. */
  readonly pendingAcks: readonly PendingAck[];
  /** By channel the highest sequence number ever written: nothing lower is written after it. */
  readonly lastSentSeq: ReadonlyMap<ChannelId, number>;
  /** When this lane last wrote, ms since 1970. */
  readonly lastSentAt: number | null;
}

export type LaneEvent =
  /** A durable command joins the lane. */
  | { readonly type: "accept"; readonly command: Command }
  /** The journal has that this command is about to be written. */
  | { readonly type: "sending-kept"; readonly id: CommandId }
  | { readonly type: "puback"; readonly id: CommandId; readonly attempt: number; readonly code: number }
  | {
      readonly type: "done";
      /** null: the device does not say which command it answers. */
      readonly id: CommandId | null;
      readonly ok: boolean | null;
      readonly code: number | null;
      readonly why?: string | undefined;
      readonly wire?: RawMessage | undefined;
    }
  | { readonly type: "report"; readonly channel: ChannelId; readonly report: Report; readonly wire?: RawMessage }
  /** A device said something that proves nothing: to all written commands of the channel. */
  | {
      readonly type: "ignore";
      readonly channel: ChannelId;
      readonly remark: Remark;
      readonly wire?: RawMessage | undefined;
    }
  /** The broker connection was lost. */
  | { readonly type: "lost" }
  /** Somebody has locked this channel out: nothing is written to it any more. */
  | { readonly type: "lock"; readonly channel: ChannelId }
  /** A person ends an open command. */
  | { readonly type: "close"; readonly id: CommandId; readonly note: string }
  /** Time has passed, or the link has come back. */
  | { readonly type: "wake" };

/** When a decision is made and what it may use. */
export interface Moment {
  /** ms since 1970. */
  readonly now: number;
  /** Whether a write would reach the broker. */
  readonly linkUp: boolean;
  /** What the device last said that a channel is, if that is still its word; null when nobody can say. */
  readonly known: (channel: ChannelId) => Value | null;
  /** Whether every partner that is interlocked with the command's channel is seen to be off. */
  readonly clear: (command: Command) => boolean;
  /**
   * What is written for a command now, where that depends on what other channels are; null: that is not known. Default: what is in its
   * order.
   */
  readonly wireOf?: (command: Command) => RawMessage | null;
  /** Whether somebody has locked out an output that would act on what is written for a command. Default: nobody has. */
  readonly isHeld?: (command: Command) => boolean;
}

export interface LaneStep {
  readonly lane: Lane;
  readonly effects: readonly Effect[];
}

/** A lane in which nothing is open. */
export function emptyLane(id: ChannelId): Lane {
  return { id, slots: [], pendingAcks: [], lastSentSeq: new Map(), lastSentAt: null };
}

/** A lane as it is but for these: written out, for lanes change at every step of every command. */
export function changedLane(
  lane: Lane,
  slots: readonly Slot[],
  pendingAcks: readonly PendingAck[] = lane.pendingAcks,
  lastSentSeq: Lane["lastSentSeq"] = lane.lastSentSeq,
  lastSentAt: number | null = lane.lastSentAt,
): Lane {
  return { id: lane.id, slots, pendingAcks, lastSentSeq, lastSentAt };
}

/** Whether nothing is open, so that the lane needs no alerts. */
export function isIdle(lane: Lane): boolean {
  return lane.slots.length === 0;
}

/** Every open command of the lane. */
export function openCommands(lane: Lane): Command[] {
  return lane.slots.map(({ command }) => command);
}

/** The command in this place, of this channel if one is named. */
export function commandIn(lane: Lane, place: Place, channel: ChannelId | null = null): Command | null {
  for (const slot of lane.slots)
    if (slot.place === place && (channel === null || slot.command.channel === channel)) return slot.command;
  return null;
}

/** The newest open setpoint of a channel: what it will be if all goes well. */
export function newestOpen(lane: Lane, channel: ChannelId): Command | null {
  let newest: Command | null = null;
  for (const { command } of lane.slots) {
    if (command.channel === channel && command.seq > (newest?.seq ?? 0)) newest = command;
  }
  return newest;
}
