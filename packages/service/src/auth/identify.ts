/** Who is calling: a member by session cookie, or by a key of theirs. */
import { RelayError } from "@bold-relay/core";
import type { Request } from "express";
import { findKey, findSession } from "../store/identities.ts";
import type { Pool } from "../store/pool.ts";
import { type Caller, callerOf } from "./caller.ts";
import { bearerToken, sha256 } from "./token.ts";

export const SESSION_COOKIE = "relay_desk";
/** Behind TLS. */
export const SECURE_SESSION_COOKIE = `__Host-${SESSION_COOKIE}`;

/** @throws RelayError not-signed-in, wrong-key or cross-site */
export async function identify(pool: Pool, req: Request): Promise<Caller> {
  const header = req.headers.authorization;
  if (header !== undefined) {
    const token = bearerToken(header);
    const identity = token === null ? null : await findKey(pool, sha256(token));
    if (!identity) throw new RelayError("wrong-key");
    return callerOf(identity, { address: req.ip ?? null, agent: req.headers["user-agent"] });
  }
  const token = sessionToken(req);
  const identity = token === null ? null : await findSession(pool, sha256(token));
  if (!identity) throw new RelayError("not-signed-in");
  if (!["GET", "HEAD"].includes(req.method)) requireSameOrigin(req);
  return callerOf(identity, { address: req.ip ?? null, agent: req.headers["user-agent"] });
}

export function sessionToken(req: Request): string | null {
  const pairs = (req.headers.cookie ?? "").split(";").map((pair) => pair.trim().split("="));
  return pairs.find(([name]) => name === SECURE_SESSION_COOKIE || name === SESSION_COOKIE)?.[1] ?? null;
}

/**
 * Browsers say where a call comes from; a cookie counts only for our own pages. SameSite=Strict guards
 * the same door; this holds even where a neighbouring host name counts as the same site.
 */
export function requireSameOrigin(req: Request): void {
  const fetchSite = req.headers["sec-fetch-site"];
  if (fetchSite !== undefined) {
    if (fetchSite !== "same-origin") throw new RelayError("cross-site");
    return;
  }
  const origin = req.headers.origin;
  if (origin === undefined || !URL.canParse(origin) || new URL(origin).host !== req.headers.host) {
    throw new RelayError("cross-site");
  }
}
