/** The address /in/<inlet>: finds the inlet and lets its kind serve. It stands before the rest of the HTTP application. */
import type { IncomingMessage, ServerResponse } from "node:http";
import { RelayError } from "@bold-relay/core";
import { bearerToken } from "../auth/token.ts";
import { requirePlainAddress } from "../http/body.ts";
import { sendProblem } from "../http/problem.ts";
import type { InletHouse } from "./house.ts";
import type { HttpKindParts } from "./inlet.ts";

export interface FrontParts extends Pick<HttpKindParts, "calls" | "log" | "isLinkLive"> {
  readonly house: InletHouse;
  /** The id of a key of this inlet; null: it is none. Cached, so that a call costs no query. */
  readonly keyOf: (key: string, slug: string, connection: object) => Promise<number | null>;
  /** The seconds to wait when this address has shown too many wrong keys. */
  readonly countWrongKey: (req: IncomingMessage) => Promise<number | null>;
  readonly asError: (error: unknown) => RelayError;
}

const PATH = /^\/in\/([a-z0-9-]{1,40})(?=[/?]|$)/;

/** @returns whether the request was for an inlet, and is being answered */
export function createFront(parts: FrontParts): (req: IncomingMessage, res: ServerResponse) => boolean {
  return (req, res) => {
    if (!req.url?.startsWith("/in/")) return false;
    serve(req, res, parts).catch((error: unknown) => {
      req.resume();
      const known = parts.asError(error);
      if (known.code === "too-many-attempts") res.setHeader("retry-after", Number(known.facts.seconds ?? 1));
      sendProblem(res, known);
    });
    return true;
  };
}

async function serve(req: IncomingMessage, res: ServerResponse, parts: FrontParts): Promise<void> {
  const { house, calls, log, isLinkLive } = parts;
  requirePlainAddress(req.url ?? "");
  const slug = PATH.exec(req.url ?? "")?.[1] ?? "";
  // Who shows no key learns nothing, not even which inlets there are.
  const strange = async (): Promise<never> => {
    const seconds = await parts.countWrongKey(req);
    if (seconds === null) throw new RelayError("wrong-key");
    throw new RelayError("too-many-attempts", { seconds });
  };
  const room = house.get(slug) ?? (await house.find(slug));
  const kind = room && house.kindOf(room.inlet);
  if (!room || !kind) return strange();
  const keyOf = async () => {
    const token = bearerToken(req.headers.authorization);
    return (token === null ? null : await parts.keyOf(token, slug, req.socket)) ?? strange();
  };
  await kind.serve(req, res, room.inlet, { keyOf, strange, isLinkLive, calls, log });
}
