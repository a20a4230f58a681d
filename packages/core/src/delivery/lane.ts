/**
 * The queue of one channel, or of several whose acknowledgements cannot be told apart: at most one command in
 * flight, the newest waiting one of a channel wins, and a confirmation is watched beside it so that a slow device
 * blocks nothing. Pure; rules in README.md.
 */
import type { Value } from "../channel/value.ts";
import type { ChannelId, CommandId } from "../id.ts";
import { type Command, type WireSight, wasSent } from "./command.ts";
import { type Debt, owe, pay } from "./debt.ts";
import { type CommandEvent, dueAt, type Effect, livesUntil, mayRetry, type Report, transition } from "./transition.ts";

/**
 * - waiting: accepted, and has not had its turn
 * - flight: written, and its acknowledgement still owed
 * - watched: acknowledged, and the device's report still owed
 */
export type Place = "waiting" | "flight" | "watched";

export interface Berth {
  readonly place: Place;
  readonly command: Command;
}

export interface Lane {
  /** Names the lane: its channel, or the first of the channels that share it. */
  readonly id: ChannelId;
  /** Every open command; of one channel at most one in each place. */
  readonly berths: readonly Berth[];
  /** Answers without a name that are still owed, oldest first. */
  readonly debts: readonly Debt[];
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
      readonly ok: boolean;
      readonly code: number | null;
      readonly wire?: WireSight;
    }
  | { readonly type: "report"; readonly channel: ChannelId; readonly report: Report; readonly wire?: WireSight }
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
}

export interface LaneStep {
  readonly lane: Lane;
  readonly effects: readonly Effect[];
}

/** A lane in which nothing is open. */
export function emptyLane(id: ChannelId): Lane {
  return { id, berths: [], debts: [], lastSentSeq: new Map(), lastSentAt: null };
}

/** Whether nothing is open, so that the lane needs no attention. */
export function isIdle(lane: Lane): boolean {
  return lane.berths.length === 0;
}

/** Every open command of the lane. */
export function openCommands(lane: Lane): Command[] {
  return lane.berths.map(({ command }) => command);
}

/** The command in this place, of this channel if one is named. */
export function commandIn(lane: Lane, place: Place, channel: ChannelId | null = null): Command | null {
  const found = lane.berths.find(
    (berth) => berth.place === place && (channel === null || berth.command.channel === channel),
  );
  return found?.command ?? null;
}

/** The newest open setpoint of a channel: what it will be if all goes well. */
export function newestOpen(lane: Lane, channel: ChannelId): Command | null {
  let newest: Command | null = null;
  for (const { command } of lane.berths) {
    if (command.channel === channel && command.seq > (newest?.seq ?? 0)) newest = command;
  }
  return newest;
}

/** Applies one event and then lets the lane do whatever has become possible. */
export function advance(lane: Lane, event: LaneEvent, moment: Moment): LaneStep {
  const draft = new Draft(lane, moment);
  draft.take(event);
  draft.pump();
  return { lane: draft.lane, effects: draft.effects };
}

/**
 * Puts the open commands found in the journal after a restart back into their lane.
 *
 * Only the newest of a channel can still be sent: older ones end, and since nobody can say whether they were
 * written before the stop, they end overtaken. One that was acknowledged is only watched further:
 * sending it again could undo what a hand did meanwhile. One that may be written only once ends unanswered if the
 * journal has that it was about to be written; if not, it surely was not, and has its turn.
 *
 * @param open the journal's open commands of this lane's channels, with what is on record of each
 */
export function restore(id: ChannelId, open: readonly Command[], moment: Moment): LaneStep {
  const { now } = moment;
  const effects: Effect[] = [];
  const berths: Berth[] = [];
  const debts: Debt[] = [];
  for (const command of open) {
    const marked = marksOfRestart(command, now);
    const isNewest = open.every((other) => other.channel !== command.channel || other.seq <= command.seq);
    if (!isNewest || (command.once && command.sending !== null)) {
      const event: CommandEvent = isNewest ? { type: "expire" } : { type: "replace" };
      effects.push(...transition(marked, event, now).effects);
      continue;
    }
    const place = placeAfterRestart(marked);
    // Its attempts are used up: it is not written again, only its answer is waited for once more.
    const restored = place === "flight" ? { ...marked, sentAt: now } : marked;
    if (marked.anonymous && marked.attempts > 0) debts.push(owe(restored, now));
    berths.push({ place, command: restored });
    effects.push({ type: "changed", command: restored });
  }
  return { lane: { ...emptyLane(id), berths, debts }, effects };
}

function marksOfRestart(command: Command, now: number): Command {
  return {
    ...command,
    // Of one that is written only once the journal knows before it is: nothing on record means nothing written.
    maybeSent: !command.once || command.sending !== null,
    sentAt: null,
    watchedFrom: command.watchedFrom === null ? null : now,
    hops: [...command.hops, { at: now, kind: "recovered" }],
  };
}

function placeAfterRestart(command: Command): Place {
  if (command.watchedFrom !== null) return "watched";
  return !command.urgent && command.attempts >= command.policy.attempts ? "flight" : "waiting";
}

/** When the lane wants to be woken if nothing comes, ms since 1970; Infinity when it wants nothing. */
export function laneDueAt(lane: Lane, moment: Moment): number {
  let due = Number.POSITIVE_INFINITY;
  for (const berth of lane.berths) due = Math.min(due, berthDueAt(lane, berth, moment));
  return due;
}

function berthDueAt(lane: Lane, { place, command }: Berth, moment: Moment): number {
  if (place === "watched") return isHeldOpen(lane, command) ? Number.POSITIVE_INFINITY : dueAt(command);
  return place === "flight" ? flightDueAt(command, moment) : waitingDueAt(lane, command, moment);
}

function waitingDueAt(lane: Lane, command: Command, { linkUp, clear }: Moment): number {
  if (!clear(command)) return waitsUntil(command);
  const blocked = !command.urgent && lane.berths.some((berth) => berth.place === "flight");
  const free = !blocked && command.sending !== "asked" && linkUp;
  return Math.min(livesUntil(command), free ? turnAt(lane, command) : Number.POSITIVE_INFINITY);
}

/** An urgent one stays watched while a newer one waits: whether that gets its turn is not known yet. */
function isHeldOpen(lane: Lane, command: Command): boolean {
  return command.urgent && !command.held && commandIn(lane, "waiting", command.channel) !== null;
}

function flightDueAt(flight: Command, moment: Moment): number {
  const mayWrite = mayRetry(flight, moment.now);
  if (flight.lostLink && mayWrite && moment.linkUp) return moment.now;
  const answerDue = dueAt(flight);
  // With the link down a further attempt must wait for it, but not past the command's own time.
  if (mayWrite && !moment.linkUp) return Math.max(answerDue, livesUntil(flight));
  return answerDue;
}

/** When a waiting command ends if its turn does not come. */
function waitsUntil(command: Command): number {
  const { clearWithinMs, askedAt } = command;
  return Math.min(livesUntil(command), clearWithinMs === null ? Number.POSITIVE_INFINITY : askedAt + clearWithinMs);
}

/** From when on the least time between two writes is kept; an urgent one need not keep it, unless it is tried again. */
function turnAt(lane: Lane, command: Command): number {
  if (lane.lastSentAt === null || (command.urgent && command.attempts === 0)) return 0;
  return lane.lastSentAt + command.policy.minGapMs;
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
    const waiting = this.lane.berths.filter((berth) => berth.place === "waiting").map(({ command }) => command);
    waiting.sort((one, other) => Number(other.urgent) - Number(one.urgent) || one.seq - other.seq);
    for (const command of waiting) this.giveTurn(command);
  }

  private giveTurn(command: Command): void {
    const { now, clear } = this.moment;
    const flying = this.lane.berths.some((berth) => berth.place === "flight");
    if (command.sending === "asked" || now < turnAt(this.lane, command) || (flying && !command.urgent)) return;
    if (now >= livesUntil(command)) return this.apply(command.id, { type: "expire" });
    if (!clear(command)) return;
    if (command.once && command.sending === null) return this.apply(command.id, { type: "keep-sending" });
    const older = (place: Place) => commandIn(this.lane, place, command.channel);
    for (const place of ["watched", "flight"] as const) {
      const replaced = older(place);
      if (replaced) this.apply(replaced.id, { type: "replace" });
    }
    this.write(command.id);
  }

  private canGo(command: Command): boolean {
    const { now, linkUp, clear } = this.moment;
    const isReady = command.sending !== "asked" && (!command.once || command.sending === "kept");
    return linkUp && isReady && now >= turnAt(this.lane, command) && now < livesUntil(command) && clear(command);
  }

  private write(id: CommandId): void {
    const berth = this.lane.berths.find((one) => one.command.id === id);
    if (!berth) return;
    const { channel, seq } = berth.command;
    const lastSentSeq =
      this.lane.lastSentSeq.get(channel) === seq ? this.lane.lastSentSeq : this.sentSeqs(channel, seq);
    this.lane = { ...this.lane, lastSentSeq, lastSentAt: this.moment.now };
    this.move(id, "flight");
    this.apply(id, { type: "send" });
    const sent = this.lane.berths.find((one) => one.command.id === id)?.command;
    if (sent?.anonymous) this.lane = { ...this.lane, debts: [...this.lane.debts, owe(sent, this.moment.now)] };
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
    this.lane = { ...this.lane, berths: [...this.lane.berths, { place: "waiting", command }] };
  }

  /** An answer that names no command pays the oldest debt, whether or not that command is still open. */
  private done(event: Extract<LaneEvent, { type: "done" }>): void {
    let { id } = event;
    if (id === null) {
      const { debts, paid } = pay(this.lane.debts, this.moment.now);
      this.lane = { ...this.lane, debts };
      if (paid === null) return;
      id = paid;
    }
    const known = this.lane.berths.find(({ command }) => command.id === id);
    if (known) this.tell(id, { ...event, known: this.moment.known(known.command.channel) });
  }

  /** Hands an event to the command it names, wherever that stands; one that is not open here is left alone. */
  private tell(id: CommandId, event: CommandEvent): void {
    const berth = this.lane.berths.find(({ command }) => command.id === id);
    if (berth && (wasSent(berth.command) || event.type === "sending-kept")) this.apply(id, event);
  }

  private tellAll(
    event: CommandEvent,
    isMeant: (command: Command, place: Place) => boolean,
    isReady: (command: Command) => boolean = () => true,
  ): void {
    for (const { command, place } of this.lane.berths) {
      if (isMeant(command, place) && isReady(command)) this.apply(command.id, event);
    }
  }

  private apply(id: CommandId, event: CommandEvent): void {
    const berth = this.lane.berths.find(({ command }) => command.id === id);
    if (!berth) return;
    const { next, effects } = transition(berth.command, event, this.moment.now);
    this.effects.push(...effects);
    if (next.end !== null) this.remove(id);
    else if (next.watchedFrom !== null && berth.place !== "watched") this.watch(next);
    else this.put(next, next.watchedFrom === null && berth.place === "watched" ? "waiting" : berth.place);
  }

  /** Acknowledged: the lane is free, the report is watched beside it. */
  private watch(command: Command): void {
    const older = commandIn(this.lane, "watched", command.channel);
    if (older) this.apply(older.id, { type: "replace" });
    this.put(command, "watched");
  }

  private put(command: Command, place: Place): void {
    const berths = this.lane.berths.map((berth) => (berth.command.id === command.id ? { place, command } : berth));
    this.lane = { ...this.lane, berths };
  }

  private move(id: CommandId, place: Place): void {
    const berth = this.lane.berths.find(({ command }) => command.id === id);
    if (berth) this.put(berth.command, place);
  }

  private remove(id: CommandId): void {
    this.lane = { ...this.lane, berths: this.lane.berths.filter(({ command }) => command.id !== id) };
  }

  private lock(channel: ChannelId): void {
    this.tellAll({ type: "lock" }, (command, place) => command.channel === channel && place !== "watched");
    const waiting = commandIn(this.lane, "waiting", channel);
    // Recovered after it was written: it is not written again, but its answer may still come.
    if (waiting?.held) this.put({ ...waiting, sentAt: this.moment.now }, "flight");
  }

  private wake(): void {
    for (const { place, command } of this.lane.berths) {
      if (place === "watched") this.wakeWatched(command);
      else if (place === "waiting") this.wakeWaiting(command);
      else this.wakeFlight(command);
    }
  }

  private wakeWatched(command: Command): void {
    if (this.moment.now < dueAt(command) || isHeldOpen(this.lane, command)) return;
    const insist = command.urgent && mayRetry(command, this.moment.now);
    this.apply(command.id, insist ? { type: "insist" } : { type: "give-up" });
  }

  private wakeWaiting(command: Command): void {
    const { now, clear } = this.moment;
    if (now >= livesUntil(command)) return this.apply(command.id, { type: "expire" });
    if (now >= waitsUntil(command) && !clear(command))
      this.apply(command.id, { type: "block", reason: "interlock-unproven" });
  }

  private wakeFlight(flight: Command): void {
    const { now, linkUp, clear } = this.moment;
    if (now < flightDueAt(flight, this.moment)) return;
    const newer = commandIn(this.lane, "waiting", flight.channel);
    // An urgent one makes room only for what goes out in this very moment: else nothing might be left that stops it.
    if (newer && (!flight.urgent || this.canGo(newer))) this.apply(flight.id, { type: "replace" });
    else if (!mayRetry(flight, now)) this.apply(flight.id, { type: "give-up" });
    else if (!clear(flight)) this.apply(flight.id, { type: "block", reason: "interlocked" });
    else if (linkUp) this.write(flight.id);
  }
}
