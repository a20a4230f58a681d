/**
 * The web inlet: POST /in/<inlet> with one JSON object and the inlet's own bearer key.
 *
 * It stands before the rest of the HTTP application and uses none of it: what runs before the
 * journal's commit is the biggest part of a request's cost.
 */
import type { IncomingMessage, ServerResponse } from "node:http";
import { inletAskSchema } from "@bold-relay/api/schema";
import { RelayError } from "@bold-relay/core";
import { bearerToken, sha256 } from "../auth/token.ts";
import { readBody } from "../http/body.ts";
import { intentOf, preferredWaitS, repeatKeyOf } from "../http/prefer.ts";
import { sendProblem } from "../http/problem.ts";
import { sendRequest } from "../http/send-request.ts";
import type { InletRecord } from "../store/identities.ts";
import type { InletDesk } from "./inlet.ts";

export interface WebInletParts extends InletDesk {
  /** The inlet whose key this is; null when there is none. Cached, so that a call costs no query. */
  readonly holderOf: (tokenSha256: Buffer) => Promise<{ inlet: InletRecord; keyId: number } | null>;
  /** Calls `blocked` with the seconds to wait when this address has shown too many wrong keys. */
  readonly countWrongKey: (req: IncomingMessage) => Promise<number | null>;
  readonly asError: (error: unknown) => RelayError;
}

const PATH = /^\/in\/([a-z0-9-]{1,40})\/?(?:\?.*)?$/;

/** @returns whether the request was for an inlet, and is being answered */
export function createWebInlet(parts: WebInletParts): (req: IncomingMessage, res: ServerResponse) => boolean {
  return (req, res) => {
    if (!req.url?.startsWith("/in/")) return false;
    serve(req, res, parts).catch((error: unknown) => {
      req.resume();
      sendProblem(res, parts.asError(error));
    });
    return true;
  };
}

async function serve(req: IncomingMessage, res: ServerResponse, parts: WebInletParts): Promise<void> {
  const slug = PATH.exec(req.url ?? "")?.[1];
  const token = bearerToken(req.headers.authorization);
  const holder = token === null ? null : await parts.holderOf(sha256(token));
  // A wrong key learns nothing, not even which inlets there are.
  if (!holder || holder.inlet.slug !== slug) {
    const seconds = await parts.countWrongKey(req);
    if (seconds === null) throw new RelayError("wrong-key");
    res.setHeader("retry-after", seconds);
    throw new RelayError("too-many-attempts", { seconds });
  }
  if (req.method !== "POST") {
    res.setHeader("allow", "POST");
    throw new RelayError("wrong-method", { allowed: "POST" });
  }
  const body = await readBody(req, inletAskSchema);
  const intent = intentOf(body, repeatKeyOf(req.headers));
  const { inlet, keyId } = holder;
  const sites = inlet.site === null ? null : [inlet.site];
  const asker = { inlet: inlet.slug, name: body.sender ?? inlet.name, sites, keyId };
  const request = await parts.ask(intent, asker, preferredWaitS(req.headers.prefer) * 1000);
  sendRequest(res, request, intent.until);
}
