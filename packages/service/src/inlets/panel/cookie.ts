/**
 * The key of a panel as a cookie of its own address: no script of the page reads it, and it goes to that panel alone. A browser that keeps no
 * cookies shows the key as a bearer token.
 */
import type { IncomingMessage } from "node:http";
import { requireSameOrigin } from "../../auth/identify.ts";

const NAME = "relay_panel";
/** The longest that browsers keep one (RFC 6265bis, 5.5), s. Each reading call of the page sets it anew. */
const KEPT_S = 400 * 86_400;

/**
 * @param secure whether the service is behind TLS: then only the cookie counts that no plain page can set (RFC 6265bis, 4.1.3.1)
 * @returns the key; null: there is no such cookie
 * @throws RelayError cross-site where the cookie comes with a call that another site's page made
 */
export function panelCookieKey(req: IncomingMessage, secure: boolean): string | null {
  const key = readCookie(req, secure);
  if (key !== null && req.method !== "GET" && req.method !== "HEAD") requireSameOrigin(req);
  return key;
}

export function hasPanelCookie(req: IncomingMessage, secure: boolean): boolean {
  return readCookie(req, secure) !== null;
}

/** @param key null: the cookie ends @returns the value of Set-Cookie */
export function setPanelCookie(slug: string, key: string | null, secure: boolean): string {
  const lasts = key === null ? 0 : KEPT_S;
  const attributes = `Path=/in/${slug}; Max-Age=${lasts}; HttpOnly; SameSite=Strict${secure ? "; Secure" : ""}`;
  return `${nameOf(secure)}=${key ?? ""}; ${attributes}`;
}

function readCookie({ headers }: IncomingMessage, secure: boolean): string | null {
  const found = new RegExp(`(?:^|;) *${nameOf(secure)}=(brk_[A-Za-z0-9_-]{20,100})(?:;|$)`).exec(headers.cookie ?? "");
  return found?.[1] ?? null;
}

function nameOf(secure: boolean): string {
  return secure ? `__Secure-${NAME}` : NAME;
}
