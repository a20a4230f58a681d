/** The answer to whoever has just shown who they are: the session cookie, and who they are now. */
import type { SessionView } from "@bold-relay/api";
import { highestRole, RelayError } from "@bold-relay/core";
import type { Request, Response } from "express";
import { type Caller, callerOf } from "../auth/caller.ts";
import { sessionToken } from "../auth/identify.ts";
import type { SignedIn } from "../auth/sign-in.ts";
import { sha256 } from "../auth/token.ts";
import { deviceCookie, sessionCookie } from "../http-exchange/client-of.ts";
import { limits } from "../platform/config/limits.ts";
import { closeSession, findSession } from "../store/identities.ts";
import type { HttpDeps } from "./deps.ts";

type Answer = (req: Request, res: Response, signedIn: SignedIn) => Promise<void>;

export function sessionAnswer({ pool, config }: Pick<HttpDeps, "pool" | "config">): Answer {
  const cookie = sessionCookie(config.secureCookies);
  const device = deviceCookie(config.secureCookies);
  return async (req, res, { token, deviceToken }) => {
    const identity = await findSession(pool, sha256(token));
    if (!identity) throw new RelayError("not-signed-in");
    // Signed in again, or as somebody else: nobody holds the session of before any more.
    const before = sessionToken(req, config.secureCookies);
    if (before !== null && before !== token) await closeSession(pool, sha256(before));
    res.cookie(cookie.name, token, { ...cookie.options, maxAge: limits.sessionMs });
    res.cookie(device.name, deviceToken, device.options);
    res.json(sessionView(callerOf(identity, { address: req.ip ?? null, agent: req.headers["user-agent"] })));
  };
}

type Shown = Pick<Caller, "memberId" | "name" | "standing" | "by" | "mustEnrol" | "isRecent">;

export function sessionView({ memberId, name, standing, by, mustEnrol, isRecent }: Shown): SessionView {
  const sites = standing.team === null ? Object.entries(standing.sites).map(([site, role]) => ({ site, role })) : null;
  return { id: memberId, name, role: highestRole(standing), sites, by, recent: isRecent, mustEnrol };
}
