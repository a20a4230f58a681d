/** Who is calling: a member by session cookie, or by a key of theirs; and what they may do. */
import { type Asker, cappedAt, RelayError, type Right, type Standing, sitesWith } from "@bold-relay/core";
import type { Request } from "express";
import { findKey, findSession } from "../store/identities.ts";
import type { Pool } from "../store/pool.ts";
import { bearerToken, sha256 } from "./token.ts";

export const SESSION_COOKIE = "relay_desk";

export interface Caller {
  readonly name: string;
  readonly by: "session" | "key";
  readonly standing: Standing;
  readonly keyId: number | null;
}

/** A caller who has a right, and where. */
export interface Admitted extends Caller {
  /** The sites at which the caller has it; null: every site. */
  readonly sites: readonly string[] | null;
  readonly asker: Asker;
}

/** @throws RelayError not-signed-in, wrong-key or cross-site */
export async function identify(pool: Pool, req: Request): Promise<Caller> {
  const header = req.headers.authorization;
  if (header !== undefined) {
    const token = bearerToken(header);
    const holder = token === null ? null : await findKey(pool, sha256(token));
    if (!holder?.member) throw new RelayError("wrong-key");
    const standing = holder.most === null ? holder.standing : cappedAt(holder.standing, holder.most);
    return { name: holder.member, by: "key", standing, keyId: holder.keyId };
  }
  const token = sessionToken(req);
  const session = token === null ? null : await findSession(pool, sha256(token));
  if (!session) throw new RelayError("not-signed-in");
  if (!["GET", "HEAD"].includes(req.method)) requireSameOrigin(req);
  return { name: session.member, by: "session", standing: session.standing, keyId: null };
}

/** @throws RelayError not-permitted when the caller has this right nowhere */
export function admit(caller: Caller, right: Right): Admitted {
  const sites = sitesWith(caller.standing, right);
  if (sites?.length === 0) throw new RelayError("not-permitted", { why: `${caller.name} ${LACKS[right]}` });
  const inlet = caller.by === "session" ? "board" : "command line";
  return { ...caller, sites, asker: { inlet, name: caller.name, sites, keyId: caller.keyId } };
}

const LACKS: Record<Right, string> = {
  see: "has no role at any site. An owner of the team can give one",
  ask: "may not switch anything. An owner of the team can change that",
  hold: "may not do this: it takes an operator of the site",
  build: "may not do this: it takes an engineer of the site",
  govern: "may not do this: it takes an owner of the team",
};

export function sessionToken(req: Request): string | null {
  const pairs = (req.headers.cookie ?? "").split(";").map((pair) => pair.trim().split("="));
  return pairs.find(([name]) => name === SESSION_COOKIE)?.[1] ?? null;
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
