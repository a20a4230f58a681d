/** Takes a changed picture of the sites on, in every part that goes by it. */
import { covers, firstLevel, inShards, type Snapshot, type TopicUse } from "@bold-relay/core";
import type { Log } from "../platform/log.ts";
import type { Board } from "../state/board.ts";
import type { Feed } from "../state/live-feed.ts";
import type { Lockouts } from "../state/lockouts.ts";
import { shardOfSite } from "../state/site-shards.ts";
import { deviceOf } from "./check-site.ts";

/** The lanes, as far as they go by the picture. */
interface ModelUser {
  /** @param shards only these; left out: all */
  listen(snapshot: Snapshot, again: (filter: string) => boolean, shards?: ReadonlySet<number>): void;
  /** Sites have another shard since. */
  moved(sites: readonly string[], onTrouble: (error: unknown) => void): void;
}

export interface AdoptDeps {
  readonly board: Board;
  readonly lockouts: Lockouts;
  readonly shards: ModelUser;
  readonly feed: Feed;
  readonly log: Log;
}

export interface AdoptModel {
  /** @param sites all that changed */
  changed(snapshot: Snapshot, sites: readonly string[]): void;
  /** Sites belong to other shards, and nothing else has changed. @param shards by slug */
  moved(shards: ReadonlyMap<string, number>): void;
}

export function createAdopt({ board, lockouts, shards, feed, log }: AdoptDeps): AdoptModel {
  const onTrouble = (error: unknown) =>
    log.warn({ err: error }, "sites that have come here could not be taken up so far");
  return {
    changed(snapshot, sites) {
      const moved = sites.filter((site) => shardOfSite(board.snapshot, site) !== shardOfSite(snapshot, site));
      board.adopt(snapshot);
      lockouts.refresh();
      if (moved.length > 0) shards.moved(moved, onTrouble);
      shards.listen(snapshot, hearsOf(snapshot, sites));
      feed.tell({ event: { name: "model", data: { sites: [...sites] } }, sites: null });
    },
    moved(to) {
      const from = [...to.keys()].map((site) => shardOfSite(board.snapshot, site));
      board.adopt(inShards(board.snapshot, to));
      shards.moved([...to.keys()], onTrouble);
      // What lies retained at a site comes again once its new shard knows what the database has of it.
      shards.listen(board.snapshot, () => false, new Set([...from, ...to.values()]));
    },
  };
}

/** Whether a filter covers a topic of these sites: what lies retained there is new to us. */
function hearsOf({ byTopic }: Snapshot, sites: readonly string[]): (filter: string) => boolean {
  const ofSites = (use: TopicUse) => sites.some((site) => deviceOf(use)?.startsWith(`${site}/`));
  const topics = new Set<string>();
  /** Topics are looked through only where a filter begins like them: there may be a hundred sites. */
  const byFirst = new Map<string, string[]>();
  for (const [topic, use] of byTopic) {
    if (!ofSites(use)) continue;
    topics.add(topic);
    const alike = byFirst.get(firstLevel(topic));
    if (alike) alike.push(topic);
    else byFirst.set(firstLevel(topic), [topic]);
  }
  return (filter) => {
    if (!/[+#]/.test(filter)) return topics.has(filter);
    const alike = /^[+#]/.test(filter) ? [...topics] : (byFirst.get(firstLevel(filter)) ?? []);
    return alike.some((topic) => covers(filter, topic));
  };
}
