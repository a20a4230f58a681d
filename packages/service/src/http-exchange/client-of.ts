/** Where a call comes from, for signing in: the address behind the proxies that are trusted, and whose pages it says it is on. */
import { DAY_MS, RelayError } from "@bold-relay/core";
import type { CookieOptions, Request } from "express";
import { requireSameOrigin, SECURE_SESSION_COOKIE, SESSION_COOKIE } from "../auth/identify.ts";
import { type RelyingParty, relyingParty } from "../auth/passkeys.ts";
import type { Client } from "../auth/sign-in.ts";

/** @throws RelayError cross-site unless it comes from our own pages */
export function clientOf(req: Request): Client {
  requireSameOrigin(req);
  const deviceToken = DEVICE_TOKEN.exec(req.headers.cookie ?? "")?.[1] ?? null;
  return { address: req.ip ?? "unknown", agent: req.headers["user-agent"] ?? null, deviceToken, rp: ownPages(req) };
}

/** The origin that the browser says; it has been compared with the host that was called. @throws RelayError cross-site */
export function ownPages(req: Request): RelyingParty {
  const { origin, host } = req.headers;
  if (origin === undefined || !URL.canParse(origin) || new URL(origin).host !== host)
    throw new RelayError("cross-site");
  return relyingParty(origin);
}

const DEVICE_COOKIE = "relay_device";
const DEVICE_MS = 90 * DAY_MS;
/** As `newSessionToken` makes it, behind TLS with a prefix or not: it opens nothing. */
const DEVICE_TOKEN = new RegExp(`(?:^|;) *(?:__Secure-)?${DEVICE_COOKIE}=([\\w-]{43})(?:;|$)`);

/** By which a browser is known in which somebody has signed in; sent to the calls of signing in only. */
export function deviceCookie(secure: boolean): { readonly name: string; readonly options: CookieOptions } {
  const options = { httpOnly: true, sameSite: "strict", path: "/api/v1/session", secure, maxAge: DEVICE_MS } as const;
  return { name: secure ? `__Secure-${DEVICE_COOKIE}` : DEVICE_COOKIE, options };
}

/** The prefix makes browsers take it over HTTPS only, for this very host (RFC 6265bis, 4.1.3.2). */
export function sessionCookie(secure: boolean): { readonly name: string; readonly options: CookieOptions } {
  const options = { httpOnly: true, sameSite: "strict", path: "/", secure } as const;
  return { name: secure ? SECURE_SESSION_COOKIE : SESSION_COOKIE, options };
}
