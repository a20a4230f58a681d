/**
 * Channels that must go off again. A deadline is durable from the moment on which it depends, and is over only when the channel
 * was commanded anew with proof, is seen to be off, or the command that switches it off is durable. `deadline-runner.ts` carries
 * them out.
 */
import type { ChannelId } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Board } from "../state/board.ts";
import type { DeadlineRecord } from "../store/deadlines.ts";

export interface StandingDeadline extends DeadlineRecord {
  /** When it is looked at next, ms since 1970. */
  readonly lookAt: number;
}

export class Deadlines {
  private readonly board: Board;
  private readonly clock: Clock;
  /** Of channels that other instances look after. */
  private readonly elsewhere = new Map<ChannelId, number>();
  private readonly standing = new Map<ChannelId, readonly StandingDeadline[]>();

  constructor(board: Board, clock: Clock, records: readonly DeadlineRecord[]) {
    this.board = board;
    this.clock = clock;
    this.remember(records);
  }

  /** Takes on those that the database has. */
  remember(records: readonly DeadlineRecord[]): void {
    const now = this.clock.now();
    // A clock that was set back meanwhile must not make a deadline longer than it was ever meant to be.
    for (const record of records) this.add({ ...record, dueAt: Math.min(record.dueAt, now + record.forMs) });
  }

  /** Another instance looks after this channel. */
  forget(channel: ChannelId): void {
    this.standing.delete(channel);
    this.elsewhere.delete(channel);
  }

  /** What the instance says that looks after a channel: when it goes off by itself, ms since 1970; null: it stays. */
  follow(channel: ChannelId, dueAt: number | null): void {
    this.forget(channel);
    if (dueAt !== null) this.elsewhere.set(channel, dueAt);
  }

  add(record: DeadlineRecord): void {
    this.put({ ...record, lookAt: record.dueAt });
  }

  get count(): number {
    return [...this.standing.values()].reduce((sum, all) => sum + all.length, 0);
  }

  /** When this channel goes off by itself, ms since 1970; null: it stays. */
  dueAt(channel: ChannelId): number | null {
    const elsewhere = this.elsewhere.get(channel);
    if (elsewhere !== undefined) return elsewhere;
    const due = (this.standing.get(channel) ?? []).filter((one) => !this.isOver(one)).map((one) => one.dueAt);
    return due.length === 0 ? null : Math.min(...due);
  }

  /** A newer command that reached its target stage has taken its place. */
  isOver({ channelId, seq }: StandingDeadline): boolean {
    return this.board.provenSeqOf(channelId) > seq;
  }

  /**
   * Takes out what is due, so that it is not looked at again while it is on its way to the database.
   *
   * @param isOwn whether a channel is looked after here
   */
  takeDue(now: number, isOwn: (channel: ChannelId) => boolean): StandingDeadline[] {
    if (this.standing.size === 0) return [];
    const own = [...this.standing.values()].filter(([first]) => first !== undefined && isOwn(first.channelId));
    const due = own.flatMap((all) => all.filter((one) => one.lookAt <= now));
    for (const one of due) this.take(one);
    return due;
  }

  /** Puts one back that was taken out, to be looked at again later. */
  put(deadline: StandingDeadline): void {
    const { channelId } = deadline;
    this.standing.set(channelId, [...(this.standing.get(channelId) ?? []), deadline]);
  }

  private take({ channelId, commandId }: StandingDeadline): void {
    const left = (this.standing.get(channelId) ?? []).filter((one) => one.commandId !== commandId);
    if (left.length === 0) this.standing.delete(channelId);
    else this.standing.set(channelId, left);
  }
}
