/** Tells another instance what is known here of the channels of the shards that are led here: first all of it, then what changes. */
import type { ServerResponse } from "node:http";
import type { ChannelId, PresenceEvent } from "@bold-relay/core";
import type { Deadlines } from "../delivery/deadlines.ts";
import type { Shards } from "../requests/shards.ts";
import type { Board } from "../state/board.ts";
import type { ChannelFacts, Presence } from "../state/channel-facts.ts";
import type { Feed } from "../state/live-feed.ts";
import type { PresenceLog } from "../state/presence-log.ts";
import { shardOfChannel } from "../state/site-shards.ts";

export interface FactDeps {
  readonly board: Board;
  readonly deadlines: Deadlines;
  readonly feed: Feed;
  readonly presences: PresenceLog;
  readonly shards: Shards;
}

/** One line of the stream. */
export interface FactFrame {
  readonly channels: readonly {
    readonly id: ChannelId;
    readonly facts: ChannelFacts;
    /** When it goes off by itself, ms since 1970; null: it stays. */
    readonly dueAt: number | null;
    /** Of its device. */
    readonly presence: Presence | null;
    /** When it went and came lately. */
    readonly presences: readonly PresenceEvent[];
  }[];
}

/** How long changes are gathered while somebody looks elsewhere, and while nobody does, ms. */
const GATHER_MS = 100;
const GATHER_UNSEEN_MS = 1_000;
/** So often something is said, so that silence means that the instance is gone, ms. */
const SAY_EVERY_MS = 1_000;
const MOST_IN_A_FRAME = 500;

/** Writes until the other side goes. */
export function serveFacts(res: ServerResponse, { board, deadlines, feed, presences, shards }: FactDeps): void {
  const changed = new Set<ChannelId>(board.snapshot.channels.map(({ id }) => id));
  let saidAt = performance.now();
  let isFull = false;
  const endTap = feed.tap((channel) => changed.add(channel));
  let flushedAt = Number.NEGATIVE_INFINITY;
  const timer = setInterval(() => {
    const gatherMs = feed.isLookedAtElsewhere ? GATHER_MS : GATHER_UNSEEN_MS;
    if (performance.now() - flushedAt >= gatherMs - GATHER_MS / 2) flush();
  }, GATHER_MS);
  res.writeHead(200, { "content-type": "application/jsonl", "cache-control": "no-store" });
  res.on("drain", () => {
    isFull = false;
    flush();
  });
  res.once("close", () => {
    clearInterval(timer);
    endTap();
  });
  flush();

  function flush(): void {
    flushedAt = performance.now();
    while (changed.size > 0 && !isFull) write(frameOf(takeSome()));
    if (changed.size === 0 && performance.now() - saidAt > SAY_EVERY_MS) write({ channels: [] });
  }

  function takeSome(): ChannelId[] {
    const some: ChannelId[] = [];
    for (const id of changed) {
      changed.delete(id);
      if (shards.leads(shardOfChannel(board.snapshot, id))) some.push(id);
      if (some.length >= MOST_IN_A_FRAME) break;
    }
    return some;
  }

  function frameOf(ids: readonly ChannelId[]): FactFrame {
    return {
      channels: ids.map((id) => {
        const device = board.snapshot.byId.get(id)?.device.address ?? "";
        return {
          id,
          facts: board.factsOf(id),
          dueAt: deadlines.dueAt(id),
          presence: board.presenceOf(device),
          presences: presences.eventsOf(device),
        };
      }),
    };
  }

  function write(frame: FactFrame): void {
    saidAt = performance.now();
    isFull = !res.write(`${JSON.stringify(frame)}\n`);
  }
}
