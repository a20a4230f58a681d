/**
 * Every lane of this instance: hands events to them and carries their effects out. What asks a device what a channel is
 * has a lane of its own, beside the setpoints': neither ever takes the other's place.
 */
import {
  advance,
  type BlockReason,
  type ChannelEntry,
  type ChannelId,
  type Command,
  type CommandId,
  type Effect,
  fillInTopic,
  isOn,
  isWrittenBlind,
  type Lane,
  type LaneEvent,
  type LaneStep,
  laneDueAt,
  type Moment,
  newestOpen,
  othersOf,
  payloadText,
  type RawMessage,
  READ,
  restore,
  shortNumber,
  topicFor,
  transition,
  type Value,
  type Writing,
  writingFor,
} from "@bold-relay/core";
import type { LaneLink } from "../broker/gate.ts";
import type { Publication } from "../broker/link-listener.ts";
import type { Clock } from "../platform/clock.ts";
import { failHere, isArmed } from "../platform/failpoint.ts";
import type { Log } from "../platform/log.ts";
import type { Board } from "../state/board.ts";
import { LaneStore } from "./lane-store.ts";

export interface LaneRunnerDeps {
  readonly clock: Clock;
  readonly log: Log;
  readonly board: Board;
  readonly link: LaneLink;
  /** What the device last said that a channel is, if that is still its word. */
  readonly knownOf: (channel: ChannelId) => Value | null;
  /** The place of a command in the trace of whoever asked for it. */
  readonly traceOf: (command: Command) => string;
  readonly commands: CommandKeeper;
  /** Told of each write. */
  readonly onWritten: (channel: ChannelEntry) => void;
}

/** Where commands are made durable and shown. */
interface CommandKeeper {
  /** Told of every command that changed, ended or not, before anything else happens to it. */
  changed(command: Command): void;
  /** Makes durable that the command is about to be written. */
  keepSending(command: Command): Promise<void>;
}

export class LaneRunner {
  private readonly deps: LaneRunnerDeps;
  private readonly setpoints = new LaneStore(true);
  private readonly readings = new LaneStore(false);

  constructor(deps: LaneRunnerDeps) {
    this.deps = deps;
  }

  /** The lane of a channel's setpoints, which may be shared. */
  laneOf(channel: ChannelId): Lane {
    return this.setpoints.of(this.laneId(channel));
  }

  /** The newest open setpoint of a channel. */
  openOf(channel: ChannelId): Command | null {
    const id = this.laneId(channel);
    return this.setpoints.isActive(id) ? newestOpen(this.setpoints.of(id), channel) : null;
  }

  /** Puts the open commands found after a restart back. */
  restore(lane: ChannelId, open: readonly Command[]): void {
    const moment = { ...this.moment(), linkUp: false };
    const isReading = ({ to }: Command) => to === READ;
    const readings = open.filter(isReading);
    if (readings.length < open.length)
      this.take(
        this.setpoints,
        restore(
          lane,
          open.filter((command) => !isReading(command)),
          moment,
        ),
      );
    if (readings.length > 0) this.take(this.readings, restore(lane, readings, moment));
  }

  dispatch(channel: ChannelId, event: LaneEvent): void {
    const id = this.laneId(channel);
    if (event.type === "accept")
      return this.tell(event.command.to === READ ? this.readings : this.setpoints, id, event);
    this.tell(this.setpoints, id, event);
    if (this.readings.isActive(id)) this.tell(this.readings, id, event);
  }

  private tell(store: LaneStore, id: ChannelId, event: LaneEvent): void {
    this.take(store, advance(store.of(id), event, this.moment()));
  }

  /** An answer on a topic that several channels share: its id tells whose it is, or else their lane. */
  dispatchDone(channels: readonly ChannelId[], event: Extract<LaneEvent, { type: "done" }>): void {
    const owner = channels.find(
      (channel) => this.openOf(channel)?.id === event.id || this.hasCommand(channel, event.id),
    );
    const [first] = channels;
    const channel = event.id === null ? first : owner;
    if (channel !== undefined) this.dispatch(channel, event);
  }

  /** Ends a durable command that its lane must not take. */
  refuse(command: Command, reason: BlockReason): void {
    this.deps.commands.changed(transition(command, { type: "block", reason }, this.deps.clock.now()).next);
  }

  /** Tells every lane with something open. */
  dispatchAll(event: LaneEvent): void {
    for (const store of [this.setpoints, this.readings]) for (const id of [...store.open]) this.tell(store, id, event);
  }

  /** Lets go of the lanes of channels: another shard has them from now on. Nothing of theirs is written any more. */
  drop(isGone: (channel: ChannelId) => boolean): void {
    this.setpoints.drop(isGone);
    this.readings.drop(isGone);
  }

  /** Wakes up to `most` lanes that are due. */
  sweep(most: number): void {
    let woken = 0;
    const moment = this.moment();
    for (const store of [this.setpoints, this.readings]) {
      for (const id of store.open) {
        if (laneDueAt(store.of(id), moment) > moment.now) continue;
        this.tell(store, id, { type: "wake" });
        woken += 1;
        if (woken >= most) return;
      }
    }
  }

  private moment(): Moment {
    const { clock, link, knownOf } = this.deps;
    return {
      now: clock.now(),
      linkUp: link.isReady,
      known: knownOf,
      clear: this.clear,
      wireOf: this.wireOf,
      isHeld: this.isHeld,
    };
  }

  /** Where one number tells all outputs of a board, what is written depends on what the others are by now. */
  private readonly wireOf = (command: Command): RawMessage | null => {
    const entry = this.deps.board.snapshot.byId.get(command.channel);
    if (!entry || entry.codec.bitOf === null) return command.wire;
    const writing = this.writingFor(entry, command);
    return writing && { topic: writing.topic, payload: payloadText(writing.payload) };
  };

  private readonly isHeld = (command: Command): boolean => {
    const entry = this.deps.board.snapshot.byId.get(command.channel);
    return entry !== undefined && this.deps.link.isHeld(() => this.writingFor(entry, command));
  };

  /** null: it has no topic, or what the others are is not known. */
  private writingFor(entry: ChannelEntry, { id, writes, forMs, urgent }: Command): Writing | null {
    if (writes === null) return null;
    const others = othersOf(entry, this.deps.board.snapshot, (other) => this.writtenOf(other, urgent));
    return others === null ? null : writingFor(entry, id, writes, forMs, others);
  }

  /**
   * What another output of the board was last written to be, if that is open, or else is to be left as. What must stop or go off for safety
   * does not wait until all others are known.
   */
  private writtenOf(other: ChannelEntry, urgent: boolean): Value | null {
    const written = this.laneOf(other.id)
      .slots.filter(({ place, command }) => command.channel === other.id && place !== "waiting" && command.attempts > 0)
      .map(({ command }) => command);
    const newest = written.reduce<Command | null>((one, next) => (one && one.seq > next.seq ? one : next), null);
    const { board } = this.deps;
    return newest?.to ?? board.keptAs(other) ?? (urgent ? board.lastOf(other) : null);
  }

  private laneId(channel: ChannelId): ChannelId {
    return this.deps.board.snapshot.byId.get(channel)?.lane ?? channel;
  }

  private hasCommand(channel: ChannelId, id: CommandId | null): boolean {
    return this.laneOf(channel).slots.some(({ command }) => command.id === id);
  }

  /** Whether the partners that may not be on at the same time are seen to be off, and have been for the gap. */
  private readonly clear = ({ channel, to, clearWithinMs }: Command): boolean => {
    if (clearWithinMs === null || !isOn(to)) return true;
    const { board, knownOf, clock } = this.deps;
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

  private take(store: LaneStore, { lane, effects }: LaneStep): void {
    store.put(lane);
    for (const effect of effects) {
      if (effect.type === "changed") this.changed(effect.command);
      else if (effect.type === "publish") this.publish(effect);
      else void this.keepSending(effect.command);
    }
  }

  private changed(command: Command): void {
    if (command.end !== null && command.attempts > 0) this.clearAfter(command);
    this.deps.commands.changed(command);
  }

  /** What an ended command may have left at the broker goes, unless a newer one has taken its place there. */
  private clearAfter({ channel, to, seq }: Command): void {
    const entry = this.deps.board.snapshot.byId.get(channel);
    if (!entry?.profile.retainCommands || to === READ) return;
    const topic = topicFor(entry, to);
    const newest = this.openOf(channel);
    const isReplaced =
      newest !== null && newest.seq > seq && newest.attempts > 0 && topicFor(entry, newest.to) === topic;
    if (topic !== null && !isReplaced) this.clearRetained(topic);
  }

  /** Takes a retained command from the broker: a board that connects later must not obey it (MQTT 5, 3.3.1.3). */
  clearRetained(topic: string): void {
    const nothing = { topic, payload: new Uint8Array(), expiryMs: 1_000, qos: 1, traceparent: null } as const;
    this.deps.link.publish({ ...nothing, retain: true }, () => {});
  }

  private async keepSending(command: Command): Promise<void> {
    try {
      await this.deps.commands.keepSending(command);
    } catch (error) {
      // It is not written then, and ends when its time to live passes.
      this.deps.log.error({ err: error, command: command.id }, "what may be sent only once could not be put on record");
      return;
    }
    this.dispatch(command.channel, { type: "sending-kept", id: command.id });
  }

  private publish({ command, attempt, expiryMs, asks }: Extract<Effect, { type: "publish" }>): void {
    const entry = this.deps.board.snapshot.byId.get(command.channel);
    // A channel that left the model meanwhile: nothing is written, and the command ends for want of an answer.
    const writing = entry && this.writingFor(entry, command);
    if (!writing) return;
    const qos = isWrittenBlind(command) ? 0 : 1;
    failHere("before-write");
    const traceparent = this.deps.traceOf(command);
    const { link } = this.deps;
    const { topic, payload } = writing;
    const retain = entry.profile.retainCommands === true;
    const response = responseOf(entry, command.id);
    link.publish({ topic, payload, expiryMs, qos, traceparent, retain, ...response }, (code) => {
      failHere("on-receipt");
      this.dispatch(command.channel, { type: "puback", id: command.id, attempt, code });
    });
    this.deps.onWritten(entry);
    const question = asks ? writingFor(entry, command.id, READ, null) : null;
    // Whatever becomes of the question, what counts is what the device says.
    if (question) link.publish({ ...question, expiryMs, qos: 1, traceparent, retain: false }, () => {});
    // The socket is written at the end of this turn of the event loop.
    if (isArmed("after-write")) setImmediate(() => setImmediate(failHere, "after-write"));
  }
}

/** Where its device answers, and by what it names the command, where it does so (MQTT 5, 4.10). */
function responseOf({ profile, topics, inTopic }: ChannelEntry, id: CommandId): Pick<Publication, "response"> {
  if (!profile.requestResponse || topics.done === null) return {};
  const topic =
    inTopic.done === null ? topics.done : fillInTopic(inTopic.done, { id, number: String(shortNumber(id)) });
  return { response: { topic, correlation: id } };
}
