/** What lies or comes on command topics and is not ours: kept there by a retained message, or written by somebody else. */
import type { ChannelEntry, ChannelId } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Log } from "../platform/log.ts";
import type { Board } from "../state/board.ts";
import type { Feed } from "../state/live-feed.ts";
import type { LaneRunner } from "./lane-runner.ts";

export interface ForeignCommandsDeps {
  readonly clock: Clock;
  readonly log: Log;
  readonly board: Board;
  readonly feed: Feed;
  readonly lanes: LaneRunner;
}

/** How long a message of somebody else on the command topic explains a change, ms. */
const EXPLAINS_MS = 10_000;

export class ForeignCommands {
  private readonly deps: ForeignCommandsDeps;
  /** By channel when somebody else was last heard on its command topic, ms since 1970. */
  private readonly heardAt = new Map<ChannelId, number>();

  constructor(deps: ForeignCommandsDeps) {
    this.deps = deps;
  }

  /** Whether somebody else commanded the channel so lately that it explains a change. */
  explains(channel: ChannelId, now: number): boolean {
    return now < (this.heardAt.get(channel) ?? 0) + EXPLAINS_MS;
  }

  /** @param live it came just now; false: it lay retained at the broker */
  receive(channel: ChannelEntry, topic: string, live: boolean): void {
    const { board, clock, feed, log, lanes } = this.deps;
    const now = clock.now();
    if (!live && channel.profile.retainCommands) {
      // Ours, from before the link was lost: it must not act on a board that wakes up later.
      if (lanes.openOf(channel.id) === null) lanes.clearRetained(topic);
      return;
    }
    if (live) this.heardAt.set(channel.id, now);
    const isNew = board.addConcern(
      channel.id,
      live
        ? { kind: "foreign-publisher", text: `Somebody else writes commands to ${topic}.`, since: now }
        : {
            kind: "retained-command",
            text: `A retained message lies on ${topic}: the device obeys it at every connect. Clear it.`,
            since: now,
          },
    );
    if (!isNew) return;
    log.warn({ topic, live }, "a message on a command topic that is not ours");
    feed.channelChanged(channel.id);
  }
}
