/**
 * The queue of one channel: at most one command in flight, the newest waiting one wins, and a
 * confirmation is watched beside it so that a slow device blocks nothing. Pure; rules in README.md.
 */
import type { Value } from "../channel/kind.ts";
import type { ChannelId, CommandId } from "../id.ts";
import { type Command, type WireSight, wasSent } from "./command.ts";
import { type CommandEvent, dueAt, type Effect, mayRetry, type Report, transition } from "./transition.ts";

export interface Lane {
  readonly channel: ChannelId;
  /** Written, and its acknowledgement still owed. */
  readonly flight: Command | null;
  /** The newest that was accepted and has not had its turn. */
  readonly waiting: Command | null;
  /** Acknowledged, and the device's report still owed. */
  readonly watched: Command | null;
  /** The highest sequence number ever written: nothing lower is written after it. */
  readonly lastSentSeq: number;
  /** When this lane last wrote, ms since 1970. */
  readonly lastSentAt: number | null;
}

export type LaneEvent =
  /** A durable command joins the lane. */
  | { readonly type: "accept"; readonly command: Command }
  | { readonly type: "puback"; readonly id: CommandId; readonly attempt: number; readonly code: number }
  | {
      readonly type: "done";
      readonly id: CommandId;
      readonly ok: boolean;
      readonly code: number | null;
      /** See the command's own event. */
      readonly known: Value | null;
      readonly wire?: WireSight;
    }
  | { readonly type: "report"; readonly report: Report; readonly wire?: WireSight }
  /** The broker connection was lost. */
  | { readonly type: "lost" }
  /** Somebody has locked the channel out: nothing is written any more. */
  | { readonly type: "lock" }
  /** Time has passed, or the link has come back. */
  | { readonly type: "wake" };

/** When a decision is made and what it may use. */
export interface Moment {
  /** ms since 1970. */
  readonly now: number;
  /** Whether a write would reach the broker. */
  readonly linkUp: boolean;
}

export interface LaneStep {
  readonly lane: Lane;
  readonly effects: readonly Effect[];
}

/** A lane in which nothing is open. */
export function emptyLane(channel: ChannelId): Lane {
  return { channel, flight: null, waiting: null, watched: null, lastSentSeq: 0, lastSentAt: null };
}

/** Whether nothing is open, so that the lane needs no attention. */
export function isIdle(lane: Lane): boolean {
  return lane.flight === null && lane.waiting === null && lane.watched === null;
}

/** Every open command of the lane, newest last. */
export function openCommands(lane: Lane): Command[] {
  return [lane.watched, lane.flight, lane.waiting].filter((command) => command !== null);
}

/** Applies one event and then lets the lane do whatever has become possible. */
export function advance(lane: Lane, event: LaneEvent, moment: Moment): LaneStep {
  const draft = new Draft(lane, moment);
  switch (event.type) {
    case "accept":
      draft.accept(event.command);
      break;
    case "puback":
      draft.tell(event.id, { ...event, type: "puback" });
      break;
    case "done":
      draft.tell(event.id, { ...event, type: "done" });
      break;
    case "report":
      draft.apply("watched", event);
      draft.apply("flight", event);
      // One that was recovered may have been obeyed before it is written again.
      if (lane.waiting?.maybeSent) draft.apply("waiting", event);
      break;
    case "lost":
      draft.apply("flight", event);
      break;
    case "lock":
      draft.lock();
      break;
    case "wake":
      draft.wake();
      break;
  }
  draft.pump();
  return { lane: draft.lane, effects: draft.effects };
}

/**
 * Puts the open commands found in the journal after a restart back into their lane.
 *
 * Only the newest can still be sent: older ones end, and since nobody can say whether they were
 * written before the stop, they end overtaken. One that was acknowledged is only watched further:
 * sending it again could undo what a hand did meanwhile.
 *
 * @param open the journal's open commands of this channel, with what is on record of each
 */
export function restore(channel: ChannelId, open: readonly Command[], moment: Moment): LaneStep {
  const bySeq = [...open].sort((one, other) => one.seq - other.seq);
  const newest = bySeq.pop();
  if (!newest) return { lane: emptyLane(channel), effects: [] };
  const mark = (command: Command): Command => ({
    ...command,
    maybeSent: true,
    sentAt: null,
    watchedFrom: command.acknowledgedAt === null ? null : moment.now,
    hops: [...command.hops, { at: moment.now, kind: "recovered" }],
  });
  const effects = bySeq.flatMap((older) => transition(mark(older), { type: "replace" }, moment.now).effects);
  const marked = mark(newest);
  // Its attempts are used up: it is not written again, only its answer is waited for once more.
  const command = placeAfterRestart(marked) === "flight" ? { ...marked, sentAt: moment.now } : marked;
  const lane = { ...emptyLane(channel), [placeAfterRestart(command)]: command };
  return { lane, effects: [...effects, { type: "changed", command }] };
}

function placeAfterRestart(command: Command): Place {
  if (command.acknowledgedAt !== null) return "watched";
  return command.attempts >= command.policy.attempts ? "flight" : "waiting";
}

/** When the lane wants to be woken if nothing comes, ms since 1970; Infinity when it wants nothing. */
export function laneDueAt(lane: Lane, moment: Moment): number {
  const due: number[] = [];
  if (lane.watched) due.push(dueAt(lane.watched));
  if (lane.flight) due.push(flightDueAt(lane.flight, moment));
  if (lane.waiting) {
    due.push(lane.waiting.askedAt + lane.waiting.policy.ttlMs);
    if (!lane.flight && moment.linkUp) due.push(gapEndsAt(lane, lane.waiting));
  }
  return Math.min(...due, Number.POSITIVE_INFINITY);
}

function flightDueAt(flight: Command, moment: Moment): number {
  const mayWrite = mayRetry(flight, moment.now);
  if (flight.lostLink && mayWrite && moment.linkUp) return moment.now;
  const answerDue = dueAt(flight);
  // With the link down a further attempt must wait for it, but not past the command's own time.
  if (mayWrite && !moment.linkUp) return Math.max(answerDue, flight.askedAt + flight.policy.ttlMs);
  return answerDue;
}

function gapEndsAt(lane: Lane, command: Command): number {
  return lane.lastSentAt === null ? 0 : lane.lastSentAt + command.policy.minGapMs;
}

type Place = "flight" | "waiting" | "watched";

/** One decision in the making: the lane so far and the effects so far. Never leaves this file. */
class Draft {
  lane: Lane;
  readonly effects: Effect[] = [];
  private readonly moment: Moment;

  constructor(lane: Lane, moment: Moment) {
    this.lane = lane;
    this.moment = moment;
  }

  accept(command: Command): void {
    const newest = Math.max(this.lane.lastSentSeq, this.lane.flight?.seq ?? 0, this.lane.waiting?.seq ?? 0);
    if (command.seq <= newest) {
      this.effects.push(...transition(command, { type: "replace" }, this.moment.now).effects);
      return;
    }
    this.apply("waiting", { type: "replace" });
    this.lane = { ...this.lane, waiting: command };
  }

  /** Hands an event to the command it names, wherever that stands; one that is not open here is left alone. */
  tell(id: CommandId, event: CommandEvent): void {
    for (const place of ["flight", "watched", "waiting"] as const) {
      const command = this.lane[place];
      if (command?.id === id && wasSent(command)) {
        this.apply(place, event);
        return;
      }
    }
  }

  apply(place: Place, event: CommandEvent): void {
    const command = this.lane[place];
    if (!command) return;
    const { next, effects } = transition(command, event, this.moment.now);
    this.effects.push(...effects);
    if (next.end !== null) {
      this.lane = { ...this.lane, [place]: null };
    } else if (place !== "watched" && next.acknowledgedAt !== null) {
      // Acknowledged: the lane is free, the report is watched beside it.
      this.apply("watched", { type: "replace" });
      this.lane = { ...this.lane, [place]: null, watched: next };
    } else {
      this.lane = { ...this.lane, [place]: next };
    }
  }

  lock(): void {
    this.apply("flight", { type: "lock" });
    this.apply("waiting", { type: "lock" });
    const { waiting } = this.lane;
    if (!waiting?.held) return;
    // Recovered after it was written: it is not written again, but its answer may still come.
    this.lane = { ...this.lane, waiting: null, flight: { ...waiting, sentAt: this.moment.now } };
  }

  wake(): void {
    const { now } = this.moment;
    const { watched, waiting } = this.lane;
    if (watched && now >= dueAt(watched)) this.apply("watched", { type: "give-up" });
    if (waiting && now >= waiting.askedAt + waiting.policy.ttlMs) this.apply("waiting", { type: "expire" });
    this.wakeFlight();
  }

  private wakeFlight(): void {
    const flight = this.lane.flight;
    if (!flight || this.moment.now < flightDueAt(flight, this.moment)) return;
    if (this.lane.waiting) this.apply("flight", { type: "replace" });
    else if (!mayRetry(flight, this.moment.now)) this.apply("flight", { type: "give-up" });
    else if (this.moment.linkUp) {
      this.lane = { ...this.lane, lastSentAt: this.moment.now };
      this.apply("flight", { type: "send" });
    }
  }

  /** Writes the waiting command if nothing stands in its way. */
  pump(): void {
    const { now, linkUp } = this.moment;
    const { waiting, flight } = this.lane;
    if (!waiting || flight || !linkUp || now < gapEndsAt(this.lane, waiting)) return;
    if (now >= waiting.askedAt + waiting.policy.ttlMs) {
      this.apply("waiting", { type: "expire" });
      return;
    }
    this.apply("watched", { type: "replace" });
    this.lane = { ...this.lane, waiting: null, flight: waiting, lastSentSeq: waiting.seq, lastSentAt: now };
    this.apply("flight", { type: "send" });
  }
}
