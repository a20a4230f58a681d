/** Answers what is to be answered here, and hands the rest on to the instance that leads there. */
import type { IncomingMessage, RequestListener, ServerResponse } from "node:http";
import { MISSING_HEADER } from "@bold-relay/api";
import type { InletRegistry } from "../inlets/registry.ts";
import type { Peers } from "../peers/peers.ts";
import type { Shards } from "../requests/shards.ts";
import type { Board } from "../state/board.ts";
import { shardOfSite } from "../state/site-shards.ts";
import { findSiteOfOpen } from "../store/open-commands.ts";
import type { Pool } from "../store/pool.ts";
import { placeOf } from "./place.ts";

export interface RouterDeps {
  readonly pool: Pool;
  readonly board: Board;
  readonly shards: Shards;
  readonly peers: Peers;
  readonly inlets: Pick<InletRegistry, "find" | "isAnywhere">;
  /** Something was changed through this instance: the others should look. */
  readonly onChange: () => void;
  readonly serve: RequestListener;
}

export function createRouter(deps: RouterDeps): RequestListener {
  const { shards, peers, serve } = deps;
  return (req, res) => {
    if (peers.shardCount === 1) return serve(req, res);
    void shardFor(req, deps)
      // Whatever is wrong with it is said by whoever answers.
      .catch(() => null)
      .then((shard) => {
        if (shard !== null && !shards.leads(shard)) return peers.forwardTo(shard).serve(req, res);
        noteMissing(req, res, peers.missing);
        if (mayChange(req)) tellOnceDone(res, deps.onChange);
        serve(req, res);
      });
  };
}

/** @returns null: it is answered here */
async function shardFor(req: IncomingMessage, { pool, board, inlets }: RouterDeps): Promise<number | null> {
  const place = placeOf(req.method ?? "GET", req.url ?? "/");
  const { snapshot } = board;
  switch (place.at) {
    case "here":
      return null;
    case "first":
      return 0;
    case "site":
      return shardOfSite(snapshot, place.site);
    case "inlet": {
      const inlet = await inlets.find(place.inlet);
      if (inlet !== null && inlets.isAnywhere(inlet)) return null;
      return inlet === null ? 0 : shardOfSite(snapshot, inlet.record.inlet.site ?? "");
    }
    case "request": {
      const site = await findSiteOfOpen(pool, place.request);
      return site === null ? null : shardOfSite(snapshot, site);
    }
  }
}

/** Who reads the answer learns that it is not the whole. Those who call inlets are strangers to instances. */
function noteMissing({ url = "" }: IncomingMessage, res: ServerResponse, missing: readonly string[]): void {
  if (missing.length > 0 && url.startsWith("/api/v1/")) res.setHeader(MISSING_HEADER, missing.join(", "));
}

/** Asking changes no description, and there is much of it. */
function mayChange({ method, url = "" }: IncomingMessage): boolean {
  return (
    method !== "GET" && method !== "HEAD" && url.startsWith("/api/v1/") && !/^\/api\/v1\/(?:requests|phrases)/.test(url)
  );
}

function tellOnceDone(res: ServerResponse, tell: () => void): void {
  res.once("finish", () => {
    if (res.statusCode < 400) tell();
  });
}
