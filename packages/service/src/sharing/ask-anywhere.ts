/** Asking as every inlet does it, wherever the lanes are: here, or at the instance that leads the shard of what is asked. */
import { setTimeout as pause } from "node:timers/promises";
import type { BriefView, RequestView } from "@bold-relay/api";
import type { Peers } from "../peers/peers.ts";
import { changingHands } from "../peers/prove-peer.ts";
import { limits } from "../platform/config/limits.ts";
import type { Shards } from "../requests/shards.ts";
import { LanesMoved } from "../requests/submit.ts";
import type { Ask, AskBriefly, Follow } from "../requests/wait.ts";
import type { Board } from "../state/board.ts";
import type { OpenRequests } from "../state/open-requests.ts";
import { shardOfSite } from "../state/site-shards.ts";
import { findSiteOfOpen } from "../store/open-commands.ts";
import type { Pool } from "../store/pool.ts";
import type { PeerAsk, PeerFollow } from "./peer-verbs.ts";

/** How soon lanes that have just moved are looked for again, ms. */
const LOOK_AGAIN_MS = 20;

export interface AskCalls {
  readonly ask: Ask;
  readonly askBriefly: AskBriefly;
  readonly follow: Follow;
}

export interface AskAnywhereDeps {
  readonly pool: Pool;
  readonly board: Board;
  readonly shards: Shards;
  readonly peers: Peers;
  readonly openRequests: OpenRequests;
  /** They take what is asked of shards that are led here, and throw `LanesMoved` otherwise. */
  readonly here: AskCalls;
}

export function createAskAnywhere(deps: AskAnywhereDeps): AskCalls {
  const { pool, board, shards, openRequests, here } = deps;
  return {
    ask: (intent, asker, waitMs) =>
      nearest<RequestView>(deps, "ask", { intent, asker, waitMs }, () => here.ask(intent, asker, waitMs)),

    askBriefly: (intent, asker, waitMs) =>
      nearest<{ brief: BriefView; there: boolean }>(deps, "brief", { intent, asker, waitMs }, () =>
        here.askBriefly(intent, asker, waitMs),
      ),

    async follow(id, waitMs) {
      if (shards.only || openRequests.get(id)) return here.follow(id, waitMs);
      const site = await findSiteOfOpen(pool, id);
      const shard = site === null ? null : shardOfSite(board.snapshot, site);
      const found = shard === null ? null : await elsewhere<RequestView>(deps, shard, "follow", { id, waitMs });
      return found ?? here.follow(id, waitMs);
    },
  };
}

/** Where there is one shard, and it is here, nothing is looked for. */
function nearest<Answer>(
  deps: AskAnywhereDeps,
  verb: string,
  asked: PeerAsk,
  ownWay: () => Promise<Answer>,
): Promise<Answer> {
  if (!deps.shards.only) return anywhere(deps, verb, asked, ownWay);
  return ownWay().catch((error: unknown) => {
    if (!(error instanceof LanesMoved)) throw error;
    return anywhere(deps, verb, asked, ownWay);
  });
}

async function anywhere<Answer>(
  deps: AskAnywhereDeps,
  verb: string,
  asked: PeerAsk,
  ownWay: () => Promise<Answer>,
): Promise<Answer> {
  const { shards } = deps;
  const giveUpAt = performance.now() + limits.leaderWithinMs;
  for (;;) {
    try {
      const shard = shards.only ? null : await shards.placeOf(asked.intent, asked.asker);
      const answer = shard === null ? null : await elsewhere<Answer>(deps, shard, verb, asked);
      return answer ?? (await ownWay());
    } catch (error) {
      if (!(error instanceof LanesMoved)) throw error;
      if (performance.now() > giveUpAt) throw changingHands();
      await pause(LOOK_AGAIN_MS);
    }
  }
}

/** @returns null: it is led here */
function elsewhere<Answer>(
  { shards, peers }: AskAnywhereDeps,
  shard: number,
  verb: string,
  body: PeerAsk | PeerFollow,
): Promise<Answer | null> {
  return peers.ask<Answer>(shard, verb, body, body.waitMs, () => shards.leads(shard));
}
