/** Where a call comes from, for signing in: the address behind the proxies that are trusted, and whose pages it says it is on. */
import { RelayError } from "@bold-relay/core";
import type { CookieOptions, Request } from "express";
import { requireSameOrigin, SECURE_SESSION_COOKIE, SESSION_COOKIE } from "../auth/identify.ts";
import { type RelyingParty, relyingParty } from "../auth/passkeys.ts";
import type { Client } from "../auth/sign-in.ts";

/** @throws RelayError cross-site unless it comes from our own pages */
export function clientOf(req: Request): Client {
  requireSameOrigin(req);
  return { address: req.ip ?? "unknown", agent: req.headers["user-agent"] ?? null, rp: ownPages(req) };
}

/** The origin that the browser says; it has been compared with the host that was called. @throws RelayError cross-site */
export function ownPages(req: Request): RelyingParty {
  const { origin, host } = req.headers;
  if (origin === undefined || !URL.canParse(origin) || new URL(origin).host !== host)
    throw new RelayError("cross-site");
  return relyingParty(origin);
}

/** The prefix makes browsers take it over HTTPS only, for this very host (RFC 6265bis, 4.1.3.2). */
export function sessionCookie(secure: boolean): { readonly name: string; readonly options: CookieOptions } {
  const options = { httpOnly: true, sameSite: "strict", path: "/", secure } as const;
  return { name: secure ? SECURE_SESSION_COOKIE : SESSION_COOKIE, options };
}
