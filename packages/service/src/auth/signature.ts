/** Signatures of the Standard Webhooks specification, version 1: HMAC-SHA256 over "id.timestamp.body". */
import { createHmac, randomBytes, timingSafeEqual } from "node:crypto";
import type { IncomingHttpHeaders } from "node:http";

/** How far the caller's clock may be off, s. */
const TOLERANCE_S = 300;
const PREFIX = "whsec_";

/** @returns a secret as the caller will keep it */
export function newSecret(): string {
  return PREFIX + randomBytes(24).toString("base64");
}

/** @returns the value of `webhook-signature` */
export function signatureOf(secret: string, id: string, timestamp: number, body: string): string {
  const key = Buffer.from(secret.replace(PREFIX, ""), "base64");
  return `v1,${createHmac("sha256", key).update(`${id}.${timestamp}.${body}`).digest("base64")}`;
}

/** What a link does, until when. */
export interface LinkTerms {
  readonly phrase: string;
  /** s since 1970. */
  readonly until: number;
  /** Tells links of the same phrase apart. */
  readonly id: string;
}

/** @returns the token of a link: its terms, and a signature over them */
export function signLink(terms: LinkTerms, secret: string): string {
  const body = Buffer.from(JSON.stringify(terms)).toString("base64url");
  return `${body}.${linkSignature(body, secret)}`;
}

/**
 * @param now s since 1970
 * @returns null when it was not signed with this secret, or its time is over
 */
export function readLink(token: string, secret: string, now: number): LinkTerms | null {
  const [body = "", shown = ""] = token.split(".");
  const wanted = Buffer.from(linkSignature(body, secret));
  const given = Buffer.from(shown);
  if (given.length !== wanted.length || !timingSafeEqual(given, wanted)) return null;
  const terms = JSON.parse(Buffer.from(body, "base64url").toString("utf8")) as LinkTerms;
  return now < terms.until ? terms : null;
}

function linkSignature(body: string, secret: string): string {
  return createHmac("sha256", `link ${secret}`).update(body).digest("base64url");
}

/**
 * @param now s since 1970
 * @returns the id of the message, the same for each time that it is sent; null when it is not signed with this secret, or too old
 */
export function signedId(headers: IncomingHttpHeaders, body: string, secret: string, now: number): string | null {
  const { "webhook-id": id, "webhook-timestamp": stamp, "webhook-signature": given } = headers;
  if (typeof id !== "string" || typeof stamp !== "string" || typeof given !== "string") return null;
  if (!/^[\x21-\x7e]{1,150}$/.test(id) || !/^\d{1,12}$/.test(stamp)) return null;
  if (Math.abs(now - Number(stamp)) > TOLERANCE_S) return null;
  const wanted = Buffer.from(signatureOf(secret, id, Number(stamp), body));
  // Several, while a secret turns over.
  const isRight = given.split(" ").some((one) => {
    const shown = Buffer.from(one);
    return shown.length === wanted.length && timingSafeEqual(shown, wanted);
  });
  return isRight ? id : null;
}
