/** Every lane of this instance: hands events to them and carries their effects out. */
import {
  advance,
  type ChannelId,
  type Command,
  type CommandId,
  type Doom,
  type Effect,
  emptyLane,
  isIdle,
  isOn,
  type Lane,
  type LaneEvent,
  type LaneStep,
  laneDueAt,
  type Moment,
  newestOpen,
  restore,
  transition,
  type Value,
} from "@bold-relay/core";
import type { Clock } from "../clock.ts";
import { failHere } from "../failpoint.ts";
import type { Link } from "../link/link.ts";
import type { Log } from "../log.ts";
import type { Board } from "./board.ts";

export interface LaneBookParts {
  readonly clock: Clock;
  readonly log: Log;
  readonly board: Board;
  readonly link: () => Pick<Link, "isReady" | "publish">;
  /** What the device last said that a channel is, if that is still its word. */
  readonly knownOf: (channel: ChannelId) => Value | null;
  /** The place of a command in the trace of whoever asked for it. */
  readonly traceOf: (command: Command) => string;
  /** Told of every command that changed, ended or not, before anything else happens to it. */
  readonly onChanged: (command: Command) => void;
  /** Makes durable that the command is about to be written. */
  readonly keepSending: (command: Command) => Promise<void>;
}

export class LaneBook {
  private readonly parts: LaneBookParts;
  private readonly lanes = new Map<ChannelId, Lane>();
  /** Lanes with something open. */
  private readonly active = new Set<ChannelId>();

  constructor(parts: LaneBookParts) {
    this.parts = parts;
  }

  /** The lane of a channel, which may be shared. */
  laneOf(channel: ChannelId): Lane {
    const id = this.laneId(channel);
    return this.lanes.get(id) ?? emptyLane(id);
  }

  /** The newest open setpoint of a channel. */
  openOf(channel: ChannelId): Command | null {
    const lane = this.lanes.get(this.laneId(channel));
    return lane ? newestOpen(lane, channel) : null;
  }

  /** Puts the open commands found after a restart back. */
  restore(lane: ChannelId, open: readonly Command[]): void {
    this.take(restore(lane, open, { ...this.moment(), linkUp: false }));
  }

  dispatch(channel: ChannelId, event: LaneEvent): void {
    this.take(advance(this.laneOf(channel), event, this.moment()));
  }

  /** An answer on a topic that several channels share: its id tells whose it is, or else their lane. */
  dispatchDone(channels: readonly ChannelId[], event: Extract<LaneEvent, { type: "done" }>): void {
    const owner = channels.find((channel) => this.openOf(channel)?.id === event.id || this.holds(channel, event.id));
    const [first] = channels;
    const channel = event.id === null ? first : owner;
    if (channel !== undefined) this.dispatch(channel, event);
  }

  /** Ends a durable command that its lane must not take. */
  refuse(command: Command, reason: Doom): void {
    this.parts.onChanged(transition(command, { type: "block", reason }, this.parts.clock.now()).next);
  }

  /** Tells every lane with something open. */
  dispatchAll(event: LaneEvent): void {
    for (const lane of [...this.active]) this.dispatch(lane, event);
  }

  /** Wakes up to `most` lanes that are due. */
  sweep(most: number): void {
    let woken = 0;
    const moment = this.moment();
    for (const id of this.active) {
      const lane = this.lanes.get(id);
      if (!lane || laneDueAt(lane, moment) > moment.now) continue;
      this.dispatch(id, { type: "wake" });
      woken += 1;
      if (woken >= most) return;
    }
  }

  private moment(): Moment {
    const { clock, link, knownOf } = this.parts;
    return { now: clock.now(), linkUp: link().isReady, known: knownOf, clear: this.clear };
  }

  private laneId(channel: ChannelId): ChannelId {
    return this.parts.board.snapshot.byId.get(channel)?.lane ?? channel;
  }

  private holds(channel: ChannelId, id: CommandId | null): boolean {
    return this.laneOf(channel).berths.some(({ command }) => command.id === id);
  }

  /** Whether the partners that may not be on at the same time are seen to be off, and have been for the gap. */
  private readonly clear = ({ channel, to, clearWithinMs }: Command): boolean => {
    if (clearWithinMs === null || !isOn(to)) return true;
    const { board, knownOf, clock } = this.parts;
    const now = clock.now();
    return (board.snapshot.interlocks.get(channel) ?? []).every(({ channels, gapMs }) =>
      channels.every((partner) => {
        if (partner === channel) return true;
        const known = knownOf(partner);
        const open = this.openOf(partner);
        if (known === null || isOn(known) || (open !== null && isOn(open.to))) return false;
        return (board.observedOf(partner)?.at ?? now) + gapMs <= now;
      }),
    );
  };

  private take({ lane, effects }: LaneStep): void {
    this.lanes.set(lane.id, lane);
    if (isIdle(lane)) this.active.delete(lane.id);
    else this.active.add(lane.id);
    for (const effect of effects) {
      if (effect.type === "changed") this.parts.onChanged(effect.command);
      else if (effect.type === "publish") this.publish(effect);
      else void this.keepSending(effect.command);
    }
  }

  private async keepSending(command: Command): Promise<void> {
    try {
      await this.parts.keepSending(command);
    } catch (error) {
      // It is not written then, and ends when its time to live passes.
      this.parts.log.error(
        { err: error, command: command.id },
        "what may be sent only once could not be put on record",
      );
      return;
    }
    this.dispatch(command.channel, { type: "sending-kept", id: command.id });
  }

  private publish({ command, attempt, expiryMs }: Extract<Effect, { type: "publish" }>): void {
    const entry = this.parts.board.snapshot.byId.get(command.channel);
    // A channel that left the model meanwhile: nothing is written, and the command ends for want of an answer.
    const topic = entry?.topics.do ?? null;
    if (!entry || topic === null) return;
    const { policy, codec } = entry;
    const payload = codec.encode(command.id, command.to, policy.timesItself ? command.forMs : null);
    // At QoS 1 the broker may hand it to the device twice. One that cannot tell would pulse twice; but where the
    // broker's receipt is all that can ever be proven, there must be one.
    const qos = command.once && !policy.knowsRepeats && policy.aim !== "published" ? 0 : 1;
    failHere("before-write");
    const traceparent = this.parts.traceOf(command);
    this.parts.link().publish({ topic, payload, expiryMs, qos, traceparent }, (code) => {
      failHere("on-receipt");
      this.dispatch(command.channel, { type: "puback", id: command.id, attempt, code });
    });
    // The socket is written at the end of this turn of the event loop.
    setImmediate(() => setImmediate(failHere, "after-write"));
  }
}
