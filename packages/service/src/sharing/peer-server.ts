/** What instances ask of each other. Nobody else is answered: whatever comes here was proven to come from an instance of ours. */
import type { IncomingMessage, ServerResponse } from "node:http";
import type { Asker, Intent } from "@bold-relay/core";
import { readText } from "../http-exchange/body.ts";
import { asRelayError } from "../http-exchange/problem.ts";
import { HOP_HEADER } from "../peers/forward.ts";
import type { PeerProblem } from "../peers/peer-calls.ts";
import { NOT_HERE, PEER_PATH } from "../peers/peer-path.ts";
import type { Log } from "../platform/log.ts";
import { LanesMoved } from "../requests/submit.ts";
import type { Ask, AskBriefly, Follow } from "../requests/wait.ts";
import { recordsOf } from "../state/open-requests.ts";
import { serveEvents } from "./event-stream.ts";
import { type FactDeps, serveFacts } from "./fact-source.ts";
import { type StatusDeps, statusPart } from "./status-anywhere.ts";

/** What is asked of the leader of a shard. */
export interface PeerAsk {
  readonly intent: Intent;
  readonly asker: Asker;
  readonly waitMs: number;
}

/** A request that is followed at the instance where its lanes are. */
export interface PeerFollow {
  readonly id: string;
  readonly waitMs: number;
}

export interface PeerServerDeps extends FactDeps, StatusDeps {
  /** They take what is asked of shards that are led here, and throw `LanesMoved` otherwise. */
  readonly ask: Ask;
  readonly askBriefly: AskBriefly;
  readonly follow: Follow;
  /** Something was changed through another instance. */
  readonly onPoke: () => Promise<void>;
  readonly log: Log;
}

const BOUNDS = { bytes: 1_000_000, withinMs: 5_000 };

/** @returns whether the request was of an instance, and is being answered */
export function createPeerServer(deps: PeerServerDeps): (req: IncomingMessage, res: ServerResponse) => boolean {
  const { ask, askBriefly, follow, openRequests, onPoke, log } = deps;
  const verbs: Readonly<Record<string, (body: never) => Promise<object>>> = {
    ask: ({ intent, asker, waitMs }: PeerAsk) => ask(intent, asker, waitMs),
    brief: ({ intent, asker, waitMs }: PeerAsk) => askBriefly(intent, asker, waitMs),
    follow: ({ id, waitMs }: PeerFollow) => follow(id, waitMs),
    open: async ({ ids }: { ids: readonly string[] }) =>
      ids.flatMap((id) => {
        const open = openRequests.get(id);
        return open ? recordsOf(open) : [];
      }),
    status: async ({ sites }: { sites: readonly string[] | null }) => statusPart(deps, sites),
    poke: async () => {
      await onPoke();
      return {};
    },
  };
  return (req, res) => {
    if (!req.url?.startsWith(PEER_PATH) || req.headers[HOP_HEADER] === undefined) return false;
    const name = req.url.slice(PEER_PATH.length);
    const verb = verbs[name];
    if (name === "facts") {
      req.resume();
      serveFacts(res, deps);
    } else if (name === "events") {
      req.resume();
      serveEvents(res, deps.feed);
    } else if (verb) void answer(req, res, verb, log);
    else sendJson(res, NOT_HERE, {});
    return true;
  };
}

async function answer(
  req: IncomingMessage,
  res: ServerResponse,
  verb: (body: never) => Promise<object>,
  log: Log,
): Promise<void> {
  try {
    const body = JSON.parse(await readText(req, BOUNDS)) as never;
    sendJson(res, 200, await verb(body));
  } catch (error) {
    if (error instanceof LanesMoved) return sendJson(res, NOT_HERE, {});
    const { code, facts, kind } = asRelayError(error, log);
    sendJson(res, kind.status, { code, facts } satisfies PeerProblem);
  }
}

function sendJson(res: ServerResponse, status: number, body: object): void {
  const text = Buffer.from(JSON.stringify(body));
  res.writeHead(status, { "content-type": "application/json", "content-length": text.length }).end(text);
}
