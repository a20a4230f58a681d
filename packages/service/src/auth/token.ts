/** Tokens: 256 random bits, shown once, kept and looked up as SHA-256. */
import { hash, randomBytes } from "node:crypto";

/** @returns a key as its holder will send it, 47 characters */
export function newKey(): string {
  return `brk_${randomBytes(32).toString("base64url")}`;
}

export function newSessionToken(): string {
  return randomBytes(32).toString("base64url");
}

/** What is kept of a key or token: nobody can make it of that. @example sha256(key) // → 32 bytes */
export function sha256(token: string): Buffer {
  return hash("sha256", token, "buffer");
}

/** The token of an `Authorization: Bearer …` header (RFC 6750, section 2.1); null if there is none. */
export function bearerToken(header: string | undefined): string | null {
  const match = /^Bearer ([A-Za-z0-9._~+/=-]{1,200})$/i.exec(header ?? "");
  return match?.[1] ?? null;
}
