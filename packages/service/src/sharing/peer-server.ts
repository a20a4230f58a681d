/** What instances ask of each other. Nobody else is answered: whatever comes here was proven to come from an instance of ours. */
import type { IncomingMessage, ServerResponse } from "node:http";
import { type Asker, type Intent, RelayError } from "@bold-relay/core";
import { readText } from "../http-exchange/body.ts";
import { asRelayError } from "../http-exchange/problem.ts";
import { HOP_HEADER } from "../peers/forward.ts";
import type { PeerProblem } from "../peers/peer-calls.ts";
import { BODY_HEADER, NOT_HERE, PEER_PATH } from "../peers/peer-path.ts";
import type { PeerProof } from "../peers/peer-proof.ts";
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
  readonly proof: PeerProof;
  /** Something was changed through another instance. */
  readonly onPoke: () => Promise<void>;
  readonly log: Log;
}

const BOUNDS = { bytes: 1_000_000, withinMs: 5_000 };

/** @returns whether the request was of an instance, and is being answered */
export function createPeerServer(deps: PeerServerDeps): (req: IncomingMessage, res: ServerResponse) => boolean {
  const { ask, askBriefly, follow, openRequests, onPoke, proof, log } = deps;
  const verbs: Readonly<Record<string, Verb>> = {
    ask: verb(({ intent, asker, waitMs }: PeerAsk) => ask(intent, asker, waitMs)),
    brief: verb(({ intent, asker, waitMs }: PeerAsk) => askBriefly(intent, asker, waitMs)),
    follow: verb(({ id, waitMs }: PeerFollow) => follow(id, waitMs)),
    open: verb(async ({ ids }: { ids: readonly string[] }) =>
      ids.flatMap((id) => {
        const open = openRequests.get(id);
        return open ? recordsOf(open) : [];
      }),
    ),
    status: verb(async ({ sites }: { sites: readonly string[] | null }) => statusPart(deps, sites)),
    poke: verb(async () => {
      await onPoke();
      return {};
    }),
  };
  return (req, res) => {
    if (!req.url?.startsWith(PEER_PATH) || req.headers[HOP_HEADER] === undefined) return false;
    void serve(req, res, req.url.slice(PEER_PATH.length));
    return true;
  };

  async function serve(req: IncomingMessage, res: ServerResponse, name: string): Promise<void> {
    try {
      const body = await provenBody(req, proof);
      if (name === "facts") return serveFacts(res, deps);
      if (name === "events") return serveEvents(res, deps.feed);
      const answer = verbs[name];
      if (answer) sendJson(res, 200, await answer(body));
      else sendJson(res, NOT_HERE, {});
    } catch (error) {
      if (res.headersSent) return void res.destroy();
      if (error instanceof LanesMoved) return sendJson(res, NOT_HERE, {});
      const { code, facts, kind } = asRelayError(error, log);
      sendJson(res, kind.status, { code, facts } satisfies PeerProblem);
    }
  }
}

type Verb = (body: string) => Promise<object>;

/** What comes was proven to be written by an instance of ours. */
function verb<Body>(answer: (body: Body) => Promise<object>): Verb {
  return (body) => answer(JSON.parse(body) as Body);
}

/** The proof of the request says who calls, and not what. @throws RelayError not-permitted */
async function provenBody(req: IncomingMessage, proof: PeerProof): Promise<string> {
  const body = await readText(req, BOUNDS);
  const [hop, shown] = [req.headers[HOP_HEADER], req.headers[BODY_HEADER]];
  if (typeof hop === "string" && typeof shown === "string" && proof.isOurBody(hop, body, shown)) return body;
  throw new RelayError("not-permitted", { why: "Only an instance of this installation calls here" });
}

function sendJson(res: ServerResponse, status: number, body: object): void {
  const text = Buffer.from(JSON.stringify(body));
  res.writeHead(status, { "content-type": "application/json", "content-length": text.length }).end(text);
}
