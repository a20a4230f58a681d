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

/**
 * @param secure whether the service is behind TLS
 * @throws RelayError not-signed-in, wrong-key or cross-site
 */
export async function identify(pool: Pool, req: Request, secure: boolean): Promise<Caller> {
  const header = req.headers.authorization;
  if (header !== undefined) {
    const token = bearerToken(header);
    const identity = token === null ? null : await findKey(pool, sha256(token));
    if (!identity) throw new RelayError("wrong-key");
    return callerOf(identity, { address: req.ip ?? null, agent: req.headers["user-agent"] });
  }
  const token = sessionToken(req, secure);
  const identity = token === null ? null : await findSession(pool, sha256(token));
  if (!identity) throw new RelayError("not-signed-in");
  if (!["GET", "HEAD"].includes(req.method)) requireSameOrigin(req);
  return callerOf(identity, { address: req.ip ?? null, agent: req.headers["user-agent"] });
}

/**
 * The session's token in the cookies of a call. Behind TLS only the cookie counts that no other host name can set (RFC 6265bis, 4.1.3.2):
 * with a plain one a neighbour could make somebody act in the neighbour's own session.
 *
 * @param secure whether the service is behind TLS
 */
export function sessionToken({ headers }: Pick<Request, "headers">, secure: boolean): string | null {
  return (secure ? SECURE_TOKEN : TOKEN).exec(headers.cookie ?? "")?.[1] ?? null;
}

const SECURE_TOKEN = new RegExp(`(?:^|;) *${SECURE_SESSION_COOKIE}=([^;]*)`);
const TOKEN = new RegExp(`(?:^|;) *${SESSION_COOKIE}=([^;]*)`);

/**
 * Browsers say where a call comes from; a cookie counts only for our own pages. SameSite=Strict guards
 * the same door; this holds even where a neighbouring host name counts as the same site.
 */
export function requireSameOrigin(req: Pick<Request, "headers">): void {
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
