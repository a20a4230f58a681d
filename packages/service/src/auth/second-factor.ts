/** Codes of an authenticator app (TOTP, RFC 6238: SHA-1, 6 digits, 30 s), and codes for recovery. */
import { randomBytes } from "node:crypto";
import { sha256 } from "./token.ts";

/** At the first code. */
const otp = () => import("otplib");

/** A phone's clock may be off by so much, s. */
const TOLERANCE_S = 30;
const RECOVERY_CODES = 10;

export interface NewTotp {
  /** Base32, for who types it. */
  readonly secret: string;
  /** otpauth://, for a QR code. */
  readonly uri: string;
}

export async function newTotp(name: string): Promise<NewTotp> {
  const { generateSecret, generateURI } = await otp();
  const secret = generateSecret();
  return { secret, uri: generateURI({ issuer: "Bold Relay", label: name, secret }) };
}

/** @returns the time step of a right code; null when it is none */
export async function totpStep(secret: string, code: string): Promise<number | null> {
  if (!/^\d{6}$/.test(code)) return null;
  const { verifySync } = await otp();
  const found = verifySync({ secret, token: code, epochTolerance: TOLERANCE_S });
  return found.valid && "timeStep" in found ? found.timeStep : null;
}

/** Codes that are shown once: "7K4M-9QXD-2RTN", 60 random bits each. */
export function newRecoveryCodes(): string[] {
  return Array.from({ length: RECOVERY_CODES }, () => {
    const letters = [...randomBytes(12)].map((byte) => ALPHABET[byte % ALPHABET.length]).join("");
    return letters.replace(/(.{4})(?=.)/g, "$1-");
  });
}

/** 32 of them, without those that are read for others. */
const ALPHABET = "23456789ABCDEFGHJKLMNPQRSTUVWXYZ";

export function recoveryHash(code: string): Buffer {
  return sha256(`recovery ${code.toUpperCase().replace(/[\s-]/g, "")}`);
}
