/**
 * Channels that must go off again. A deadline is durable from the moment on which it depends, fires late rather than
 * never, and is over only when the channel was commanded anew with proof, is seen to be off, or the command that
 * switches it off is durable; that one is urgent and insists by itself.
 */
import { agrees, type ChannelId, kindOf, type Order } from "@bold-relay/core";
import { failHere } from "../failpoint.ts";
import { type DeadlineRecord, dropDeadlines } from "../store/deadlines.ts";
import type { RuleParts } from "./rule.ts";

/** How soon a deadline is looked at again that could not be carried out, ms. */
const LOOK_AGAIN_MS = 250;

interface Standing extends DeadlineRecord {
  /** When it is looked at next, ms since 1970. */
  readonly lookAt: number;
}

export class Deadlines {
  private readonly parts: RuleParts;
  private readonly standing = new Map<ChannelId, readonly Standing[]>();

  constructor(parts: RuleParts, records: readonly DeadlineRecord[]) {
    this.parts = parts;
    const now = parts.clock.now();
    // A clock that was set back meanwhile must not make a deadline longer than it was ever meant to be.
    for (const record of records) this.add({ ...record, dueAt: Math.min(record.dueAt, now + record.forMs) });
  }

  add(record: DeadlineRecord): void {
    this.put({ ...record, lookAt: record.dueAt });
  }

  get count(): number {
    return [...this.standing.values()].reduce((sum, all) => sum + all.length, 0);
  }

  /** When this channel goes off by itself, ms since 1970; null: it stays. */
  dueAt(channel: ChannelId): number | null {
    const due = (this.standing.get(channel) ?? []).filter((one) => !this.isOver(one)).map((one) => one.dueAt);
    return due.length === 0 ? null : Math.min(...due);
  }

  /** Carries out what is due. Resolves when all of it is durable: at the start, before any lane writes. */
  async sweep(): Promise<void> {
    if (this.standing.size === 0) return;
    const now = this.parts.clock.now();
    const due = [...this.standing.values()].flatMap((all) => all.filter((one) => one.lookAt <= now));
    // Not looked at again while it is on its way to the journal.
    for (const one of due) this.take(one);
    await Promise.all(due.map((one) => this.carryOut(one, now)));
  }

  private async carryOut(deadline: Standing, now: number): Promise<void> {
    const { board, situationOf, decree, pool, log } = this.parts;
    const { commandId, channelId, why } = deadline;
    const channel = board.snapshot.byId.get(channelId);
    try {
      if (!channel || this.isOver(deadline)) return await dropDeadlines(pool, [commandId]);
      const { lockout, open, known } = situationOf(channelId);
      const { rest } = kindOf(channel.kind);
      const openSeq = board.openSeqOf(channelId);
      // A newer one is on its way: whether it gets there decides. Hands in the panel: it waits for their release.
      if (lockout || (open !== null && openSeq > deadline.seq)) return this.postpone(deadline, now);
      const offAlready = known !== null && agrees(known, rest, channel.policy.tolerance) && open === null;
      if (offAlready) return await dropDeadlines(pool, [commandId]);
      const order: Order = { channel, to: rest, urgent: true, forMs: null, clearWithinMs: null, doomed: null };
      failHere("before-deadline-commit");
      await decree({
        orders: [order],
        inlet: why,
        target: channel.address,
        action: typeof rest === "number" && channel.kind === "motor" ? "stop" : "off",
        deadlineOf: commandId,
      });
      failHere("after-deadline-commit");
      log.info({ channel: channel.address, why }, "a deadline switches it off");
    } catch (error) {
      log.warn({ err: error, command: commandId }, "a deadline could not be carried out, it will be tried again");
      this.postpone(deadline, now);
    }
  }

  /** A newer command that reached its aim has taken its place. */
  private isOver({ channelId, seq }: Standing): boolean {
    return this.parts.board.provenSeqOf(channelId) > seq;
  }

  private postpone(deadline: Standing, now: number): void {
    this.put({ ...deadline, lookAt: now + LOOK_AGAIN_MS });
  }

  private put(deadline: Standing): void {
    const { channelId } = deadline;
    this.standing.set(channelId, [...(this.standing.get(channelId) ?? []), deadline]);
  }

  private take({ channelId, commandId }: Standing): void {
    const left = (this.standing.get(channelId) ?? []).filter((one) => one.commandId !== commandId);
    if (left.length === 0) this.standing.delete(channelId);
    else this.standing.set(channelId, left);
  }
}
