/** Streams that another instance follows. Whoever comes here was proven to be an instance of ours. */
import type { IncomingMessage, ServerResponse } from "node:http";
import type { Wire } from "../broker/wire.ts";
import { HOP_HEADER } from "../peers/forward.ts";
import { NOT_HERE, PEER_PATH } from "../peers/peer-path.ts";
import { serveEvents, serveWrites } from "./event-stream.ts";
import { type FactDeps, serveFacts } from "./fact-source.ts";

export interface PeerStreamDeps extends FactDeps {
  readonly wire: Pick<Wire, "tap">;
}

/** @returns whether the request was of an instance, and is being answered */
export function createPeerStreams(deps: PeerStreamDeps): (req: IncomingMessage, res: ServerResponse) => boolean {
  return (req, res) => {
    if (!req.url?.startsWith(PEER_PATH) || req.headers[HOP_HEADER] === undefined) return false;
    req.resume();
    switch (req.url.slice(PEER_PATH.length)) {
      case "facts":
        serveFacts(res, deps);
        break;
      case "events":
        serveEvents(res, deps.feed);
        break;
      case "writes":
        serveWrites(res, deps.wire);
        break;
      default:
        res.writeHead(NOT_HERE).end();
    }
    return true;
  };
}
