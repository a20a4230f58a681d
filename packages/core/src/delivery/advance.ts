/** `advance(lane, event, moment)`: the order among the commands of a lane. The rules stand in README.md beside this file. */
import { agrees, isMidway } from "../channel/value.ts";
import type { ChannelId, CommandId } from "../id.ts";
import { type Command, copyOf, type RawMessage, wasSent } from "./command.ts";
import type { BlockReason, CommandEvent, Effect } from "./command-event.ts";
import {
  changedLane,
  commandIn,
  type Lane,
  type LaneEvent,
  type LaneStep,
  type Moment,
  type Place,
  type Slot,
} from "./lane.ts";
import { flightDueAt, isHeldOpen, turnAt, waitsUntil } from "./lane-due.ts";
import { expectAck, matchAck } from "./pending-ack.ts";
import { dueAt, livesUntil, mayRetry, transition } from "./transition.ts";

/** Applies one event and then lets the lane do whatever has become possible. */
export function advance(lane: Lane, event: LaneEvent, moment: Moment): LaneStep {
  const draft = new Draft(lane, moment);
  draft.take(event);
  draft.pump();
  return { lane: draft.lane, effects: draft.effects };
}

/** One decision in the making: the lane so far and the effects so far. Never leaves this file. */
class Draft {
  lane: Lane;
  readonly effects: Effect[] = [];
  private readonly moment: Moment;

  constructor(lane: Lane, moment: Moment) {
    this.lane = lane;
    this.moment = moment;
  }

  take(event: LaneEvent): void {
    switch (event.type) {
      case "accept":
        return this.accept(event.command);
      case "sending-kept":
      case "puback":
        return this.tell(event.id, event);
      case "close":
        return this.apply(event.id, event);
      case "done":
        return this.done(event);
      case "report":
        // One that was recovered, or is tried again, may have been obeyed while it waits.
        return this.tellAll(event, ({ channel }) => channel === event.channel, wasSent);
      case "ignore":
        return this.tellAll(event, ({ channel }) => channel === event.channel, wasSent);
      case "lost":
        return this.tellAll(event, (_, place) => place === "flight");
      case "lock":
        return this.lock(event.channel);
      case "wake":
        return this.wake();
    }
  }

  /** Writes what waits, if nothing stands in its way: the urgent first, then in order. */
  pump(): void {
    if (!this.moment.linkUp) return;
    const waiting = this.lane.slots.filter((slot) => slot.place === "waiting");
    if (waiting.length > 1) waiting.sort((one, other) => turnBefore(one.command, other.command));
    for (const { command } of waiting) this.giveTurn(command);
  }

  private giveTurn(command: Command): void {
    const { now, clear } = this.moment;
    const flying = this.lane.slots.some((slot) => slot.place === "flight");
    if (command.sending === "asked" || now < turnAt(this.lane, command) || (flying && !command.urgent)) return;
    if (now >= livesUntil(command)) return this.apply(command.id, { type: "expire" });
    if (!clear(command)) return;
    const reason = this.reasonNotToWrite(command);
    if (reason !== null) return this.apply(command.id, { type: "block", reason });
    if (command.drive !== "set" && !this.isOtherwise(command)) return;
    if (command.once && command.sending === null) return this.apply(command.id, { type: "keep-sending" });
    const older = (place: Place) => commandIn(this.lane, place, command.channel);
    for (const place of ["watched", "flight"] as const) {
      const replaced = older(place);
      if (replaced) this.apply(replaced.id, { type: "replace" });
    }
    this.write(command.id);
  }

  /** One that changes to the other state may only be written while it is seen that the channel is not as wanted. */
  private isOtherwise(command: Command): boolean {
    const known = this.moment.known(command.channel);
    if (known === null || command.writes === null) this.apply(command.id, { type: "block", reason: "state-unknown" });
    // One more impulse may as well reverse it.
    else if (isMidway(known)) this.apply(command.id, { type: "block", reason: "midway" });
    else if (agrees(known, command.to, command.accepted)) this.apply(command.id, { type: "already" });
    else return true;
    return false;
  }

  private canGo(command: Command): boolean {
    const { now, linkUp, clear } = this.moment;
    const isReady = command.sending !== "asked" && (!command.once || command.sending === "kept");
    return linkUp && isReady && now >= turnAt(this.lane, command) && now < livesUntil(command) && clear(command);
  }

  private write(id: CommandId): void {
    const slot = this.slotOf(id);
    if (!slot) return;
    const { channel, seq } = slot.command;
    const { lane, moment } = this;
    const lastSentSeq = lane.lastSentSeq.get(channel) === seq ? lane.lastSentSeq : this.sentSeqs(channel, seq);
    this.lane = changedLane(lane, lane.slots, lane.pendingAcks, lastSentSeq, moment.now);
    this.move(id, "flight");
    const wire = this.wireOf(slot.command) ?? slot.command.wire;
    this.apply(id, { type: "send", known: moment.known(channel), wire });
    const sent = this.slotOf(id)?.command;
    if (sent?.anonymous)
      this.lane = changedLane(this.lane, this.lane.slots, [...this.lane.pendingAcks, expectAck(sent, moment.now)]);
  }

  private wireOf(command: Command): RawMessage | null {
    return this.moment.wireOf ? this.moment.wireOf(command) : command.wire;
  }

  private sentSeqs(channel: ChannelId, seq: number): ReadonlyMap<ChannelId, number> {
    return new Map(this.lane.lastSentSeq).set(channel, seq);
  }

  private accept(command: Command): void {
    const { channel, seq } = command;
    const flight = commandIn(this.lane, "flight", channel);
    const waiting = commandIn(this.lane, "waiting", channel);
    const newest = Math.max(this.lane.lastSentSeq.get(channel) ?? 0, flight?.seq ?? 0, waiting?.seq ?? 0);
    if (seq <= newest) {
      this.effects.push(...transition(command, { type: "replace" }, this.moment.now).effects);
      return;
    }
    if (waiting) this.apply(waiting.id, { type: "replace" });
    this.lane = changedLane(this.lane, [...this.lane.slots, { place: "waiting", command }]);
  }

  /** An answer that names no command pays the oldest debt, whether or not that command is still open. */
  private done(event: Extract<LaneEvent, { type: "done" }>): void {
    const { ok, code, why, wire } = event;
    let { id } = event;
    if (id === null) {
      const { pendingAcks, matched } = matchAck(this.lane.pendingAcks, this.moment.now);
      this.lane = changedLane(this.lane, this.lane.slots, pendingAcks);
      if (matched === null) return this.ignoreAnswer("late", wire);
      id = matched;
    }
    const slot = this.slotOf(id);
    if (!slot) return this.ignoreAnswer(event.id === null ? "late" : "other-command", wire);
    const known = this.moment.known(slot.command.channel);
    this.tell(id, { type: "done", ok, code, why, wire, known });
  }

  /** An acknowledgement that is no open command's. */
  private ignoreAnswer(why: "late" | "other-command", wire: RawMessage | undefined): void {
    this.tellAll({ type: "ignore", remark: { takenFor: "acknowledgement", why }, wire }, () => true, wasSent);
  }

  /** Hands an event to the command it names, wherever that stands; one that is not open here is left alone. */
  private tell(id: CommandId, event: CommandEvent): void {
    const slot = this.slotOf(id);
    if (slot && (wasSent(slot.command) || event.type === "sending-kept")) this.apply(id, event);
  }

  private tellAll(
    event: CommandEvent,
    isMeant: (command: Command, place: Place) => boolean,
    isReady: (command: Command) => boolean = () => true,
  ): void {
    for (const { command, place } of this.lane.slots) {
      if (isMeant(command, place) && isReady(command)) this.apply(command.id, event);
    }
  }

  private apply(id: CommandId, event: CommandEvent): void {
    const slot = this.slotOf(id);
    if (!slot) return;
    const { next, effects } = transition(slot.command, event, this.moment.now);
    for (const effect of effects) this.effects.push(effect);
    if (next.end !== null) this.remove(id);
    else if (next.watchedFrom !== null && slot.place !== "watched") this.watch(next);
    else this.put(next, next.watchedFrom === null && slot.place === "watched" ? "waiting" : slot.place);
  }

  /** Acknowledged: the lane is free, the report is watched beside it. */
  private watch(command: Command): void {
    const older = commandIn(this.lane, "watched", command.channel);
    if (older) this.apply(older.id, { type: "replace" });
    this.put(command, "watched");
  }

  private put(command: Command, place: Place): void {
    const slots = this.lane.slots.map((slot) => (slot.command.id === command.id ? { place, command } : slot));
    this.lane = changedLane(this.lane, slots);
  }

  private move(id: CommandId, place: Place): void {
    const slot = this.slotOf(id);
    if (slot) this.put(slot.command, place);
  }

  private remove(id: CommandId): void {
    const slots = this.lane.slots.filter(({ command }) => command.id !== id);
    this.lane = changedLane(this.lane, slots);
  }

  private slotOf(id: CommandId): Slot | undefined {
    for (const slot of this.lane.slots) if (slot.command.id === id) return slot;
    return undefined;
  }

  private lock(channel: ChannelId): void {
    this.tellAll({ type: "lock" }, (command, place) => command.channel === channel && place !== "watched");
    const waiting = commandIn(this.lane, "waiting", channel);
    // Recovered after it was written: it is not written again, but its answer may still come.
    if (!waiting?.held) return;
    const owed = copyOf(waiting);
    owed.sentAt = this.moment.now;
    this.put(owed, "flight");
  }

  private wake(): void {
    for (const { place, command } of this.lane.slots) {
      if (place === "watched") this.wakeWatched(command);
      else if (place === "waiting") this.wakeWaiting(command);
      else this.wakeFlight(command);
    }
  }

  private wakeWatched(command: Command): void {
    if (this.moment.now < dueAt(command) || isHeldOpen(this.lane, command)) return;
    if (this.isUnchanged(command)) return this.apply(command.id, { type: "unchanged" });
    const insist = (command.urgent || this.isWorthAnother(command)) && mayRetry(command, this.moment.now);
    this.apply(command.id, insist ? { type: "insist" } : { type: "give-up" });
  }

  /** It may not have come through, and nothing newer waits that would be written instead. */
  private isWorthAnother(command: Command): boolean {
    return wasNotHeard(command) && !commandIn(this.lane, "waiting", command.channel);
  }

  /** Its device says nothing where nothing changes, and the channel is known to be as commanded. */
  private isUnchanged({ silentIfSame, publishedAt, to, accepted, channel }: Command): boolean {
    if (!silentIfSame || publishedAt === null || to === "stop") return false;
    const known = this.moment.known(channel);
    return known !== null && agrees(known, to, accepted);
  }

  private wakeWaiting(command: Command): void {
    const { now, clear } = this.moment;
    if (now >= livesUntil(command)) return this.apply(command.id, { type: "expire" });
    if (now >= waitsUntil(command) && !clear(command))
      this.apply(command.id, { type: "block", reason: "interlock-unproven" });
  }

  /** What its bytes would do, as they are now; null: nothing stands in their way. */
  private reasonNotToWrite(command: Command): BlockReason | null {
    if (!this.moment.clear(command)) return "interlocked";
    if (this.wireOf(command) === null) return "others-unknown";
    return this.moment.isHeld?.(command) ? "locked-out" : null;
  }

  private wakeFlight(flight: Command): void {
    const { now, linkUp } = this.moment;
    if (now < flightDueAt(flight, this.moment)) return;
    const newer = commandIn(this.lane, "waiting", flight.channel);
    // An urgent one makes room only for what goes out in this very moment: else nothing might be left that stops it.
    if (newer && (!flight.urgent || this.canGo(newer))) this.apply(flight.id, { type: "replace" });
    else if (this.isUnchanged(flight)) this.apply(flight.id, { type: "unchanged" });
    else if (mayReportYet(flight, now)) this.apply(flight.id, { type: "await-report" });
    else if (!mayRetry(flight, now)) this.apply(flight.id, { type: "give-up" });
    else {
      const reason = this.reasonNotToWrite(flight);
      if (reason !== null) this.apply(flight.id, { type: "block", reason });
      else if (linkUp) this.write(flight.id);
    }
  }
}

/** Its device acknowledges nothing, has the command as far as the broker knows, and may still be getting there. */
function mayReportYet({ reportOnly, publishedAt, sentAt, policy, lostLink, doubted }: Command, now: number): boolean {
  if (!reportOnly || publishedAt === null || sentAt === null || lostLink || doubted) return false;
  return now < sentAt + policy.settleMs;
}

/** Its device acknowledges nothing, and said nothing since the write: it may not have come through. */
function wasNotHeard({ reportOnly, contradiction, stood, hops }: Command): boolean {
  if (!reportOnly || contradiction !== null || stood !== null) return false;
  return hops.findLastIndex(({ kind }) => kind === "sent") > hops.findLastIndex(({ kind }) => kind === "ignored");
}

/** The urgent first, then in order. */
function turnBefore(one: Command, other: Command): number {
  return Number(other.urgent) - Number(one.urgent) || one.seq - other.seq;
}
