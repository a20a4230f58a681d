/** Switches off what is due: late rather than never, by a command that is urgent and insists by itself. */
import { actionTo, type ChannelId, isAsCommanded, kindOf, type Order } from "@bold-relay/core";
import type { Deadlines, StandingDeadline } from "../delivery/deadlines.ts";
import { failHere } from "../platform/failpoint.ts";
import { dropDeadlines } from "../store/deadlines.ts";
import type { RuleDeps } from "./rule.ts";

/** How soon a deadline is looked at again that could not be carried out, ms. */
const LOOK_AGAIN_MS = 250;

export class DeadlineRunner {
  private readonly deps: RuleDeps;
  private readonly deadlines: Deadlines;
  private readonly isOwn: (channel: ChannelId) => boolean;

  /** @param isOwn whether a channel is looked after here */
  constructor(deps: RuleDeps, deadlines: Deadlines, isOwn: (channel: ChannelId) => boolean) {
    this.deps = deps;
    this.deadlines = deadlines;
    this.isOwn = isOwn;
  }

  /** Carries out what is due. Resolves when all of it is durable: at the start, before any lane writes. */
  async sweep(): Promise<void> {
    const now = this.deps.clock.now();
    await Promise.all(this.deadlines.takeDue(now, this.isOwn).map((one) => this.carryOut(one, now)));
  }

  private async carryOut(deadline: StandingDeadline, now: number): Promise<void> {
    const { board, situationOf, submitForRule, pool, log } = this.deps;
    const { commandId, channelId, why } = deadline;
    const channel = board.snapshot.byId.get(channelId);
    try {
      if (!channel || this.deadlines.isOver(deadline)) return await dropDeadlines(pool, [commandId]);
      const { lockout, open, known } = situationOf(channelId);
      const kind = kindOf(channel.kind);
      const { rest } = kind;
      const openSeq = board.openSeqOf(channelId);
      // A newer one is on its way: whether it gets there decides. Hands in the panel: it waits for their release.
      if (lockout || (open !== null && openSeq > deadline.seq)) return this.postpone(deadline, now);
      const offAlready = known !== null && isAsCommanded(channel, known, rest) && open === null;
      if (offAlready) return await dropDeadlines(pool, [commandId]);
      const order: Order = { channel, to: rest, urgent: true, forMs: null, clearWithinMs: null, blocked: null };
      failHere("before-deadline-commit");
      await submitForRule({
        orders: [order],
        inlet: why,
        target: channel.address,
        action: actionTo(kind, rest) ?? "off",
        deadlineOf: commandId,
      });
      failHere("after-deadline-commit");
      log.info({ channel: channel.address, why }, "a deadline switches it off");
    } catch (error) {
      log.warn({ err: error, command: commandId }, "a deadline could not be carried out, it will be tried again");
      this.postpone(deadline, now);
    }
  }

  private postpone(deadline: StandingDeadline, now: number): void {
    this.deadlines.put({ ...deadline, lookAt: now + LOOK_AGAIN_MS });
  }
}
