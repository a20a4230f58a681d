/** State queries of the service's own: a while after a command, and in intervals, where profiles say so. Nobody waits for an answer. */
import { type ChannelEntry, type ChannelId, type CommandId, READ, type Snapshot, writingFor } from "@bold-relay/core";
import type { Link } from "../broker/link.ts";
import type { Clock } from "../platform/clock.ts";
import { newId } from "../platform/id.ts";
import type { Board } from "../state/board.ts";

export interface StateQueriesDeps {
  readonly clock: Clock;
  readonly board: Board;
  readonly link: Pick<Link, "isReady" | "publish">;
  readonly isOwn: (channel: ChannelId) => boolean;
  /** A board may take whatever comes on a topic for a command. */
  readonly isLockedOut: (channel: ChannelId) => boolean;
}

/** How long a question may wait at the broker, ms: an old answer is of no use. */
const EXPIRES_MS = 5_000;
/** So many are asked in one turn: the rest have theirs in the next. */
const MOST_A_TURN = 200;

export class StateQueries {
  private readonly deps: StateQueriesDeps;
  /** By channel when it is asked because of a command, ms since 1970. */
  private readonly afterCommand = new Map<ChannelId, number>();
  /** By channel when it was asked last in its interval, ms since 1970. */
  private readonly asked = new Map<ChannelId, number>();
  private polled: { readonly of: Snapshot; readonly channels: readonly ChannelEntry[] } | null = null;

  constructor(deps: StateQueriesDeps) {
    this.deps = deps;
  }

  /** A command was written to the channel. */
  written({ id, policy, topics }: ChannelEntry): void {
    if (policy.askAfterMs !== null && topics.ask !== null)
      this.afterCommand.set(id, this.deps.clock.now() + policy.askAfterMs);
  }

  sweep(): void {
    const { clock, board, link, isOwn } = this.deps;
    if (!link.isReady) return;
    const now = clock.now();
    let left = MOST_A_TURN;
    for (const [id, at] of this.afterCommand) {
      if (at > now || left === 0) continue;
      this.afterCommand.delete(id);
      const entry = board.snapshot.byId.get(id);
      if (entry && isOwn(id)) left -= this.ask(entry);
    }
    for (const entry of this.inIntervals(board.snapshot)) {
      if (left === 0) return;
      const everyMs = entry.policy.askEveryMs ?? Number.POSITIVE_INFINITY;
      if (now - (this.asked.get(entry.id) ?? 0) < everyMs || !isOwn(entry.id)) continue;
      this.asked.set(entry.id, now);
      left -= this.ask(entry);
    }
  }

  private ask(entry: ChannelEntry): number {
    const question = this.deps.isLockedOut(entry.id) ? null : writingFor(entry, newId() as CommandId, READ, null);
    if (question)
      this.deps.link.publish({ ...question, expiryMs: EXPIRES_MS, qos: 1, traceparent: null, retain: false }, () => {});
    return 1;
  }

  /** Found once for each model: there may be many channels, and few that are asked. */
  private inIntervals(snapshot: Snapshot): readonly ChannelEntry[] {
    if (this.polled?.of !== snapshot) {
      const channels = snapshot.channels.filter(
        ({ policy, topics }) => policy.askEveryMs !== null && topics.ask !== null,
      );
      this.polled = { of: snapshot, channels };
    }
    return this.polled.channels;
  }
}
