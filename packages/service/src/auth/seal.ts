/** Secrets that have to be read back are sealed with AES-256-GCM: 12 bytes nonce, 16 bytes tag, then the text. */
import { createCipheriv, createDecipheriv, randomBytes } from "node:crypto";

const NONCE_BYTES = 12;
const TAG_BYTES = 16;

/** @param key 32 bytes */
export function seal(text: string, key: Buffer): Buffer {
  const nonce = randomBytes(NONCE_BYTES);
  const cipher = createCipheriv("aes-256-gcm", key, nonce);
  const body = Buffer.concat([cipher.update(text, "utf8"), cipher.final()]);
  return Buffer.concat([nonce, cipher.getAuthTag(), body]);
}

/** @throws Error when it was sealed with another key, or was changed */
function unseal(sealed: Buffer, key: Buffer): string {
  const decipher = createDecipheriv("aes-256-gcm", key, sealed.subarray(0, NONCE_BYTES));
  decipher.setAuthTag(sealed.subarray(NONCE_BYTES, NONCE_BYTES + TAG_BYTES));
  const body = sealed.subarray(NONCE_BYTES + TAG_BYTES);
  return Buffer.concat([decipher.update(body), decipher.final()]).toString("utf8");
}

/** @returns null when it cannot be read: there is no key, or it was sealed with another */
export function unsealed(sealed: Buffer, key: Buffer | undefined): string | null {
  try {
    return key ? unseal(sealed, key) : null;
  } catch {
    return null;
  }
}
