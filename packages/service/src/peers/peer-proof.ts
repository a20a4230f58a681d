/**
 * By what instances of one installation know each other: a secret that only their database has. Whoever hands a request on proves
 * it for that very request; whoever holds the lanes proves it before it is handed any, for requests carry keys.
 */
import { createHmac, randomBytes, timingSafeEqual } from "node:crypto";
import type { IncomingMessage } from "node:http";
import type { Pool } from "../store/pool.ts";

/** How far the clocks of two instances may be apart, ms. */
const TOLERANCE_MS = 60_000;

export class PeerProof {
  private readonly secret: Buffer;

  constructor(secret: Buffer) {
    this.secret = secret;
  }

  /** @returns the value of the header that goes with a request that is handed on */
  forRequest(name: string, method: string, url: string, now = Date.now()): string {
    return `${Buffer.from(name).toString("base64url")}.${now}.${this.sign(["handed on", name, String(now), method, url])}`;
  }

  /** Whether a request that says that it was handed on was so by an instance of ours. */
  isOurs(
    { method = "", url = "" }: Pick<IncomingMessage, "method" | "url">,
    header: string,
    now = Date.now(),
  ): boolean {
    const [name = "", stamp = "", shown = ""] = header.split(".");
    if (!/^\d{1,15}$/.test(stamp) || Math.abs(now - Number(stamp)) > TOLERANCE_MS) return false;
    const wanted = this.sign(["handed on", Buffer.from(name, "base64url").toString("utf8"), stamp, method, url]);
    return isSame(wanted, shown);
  }

  /** What the other side of a link answers to the number of its caller: a number of its own, and the proof that it is one of ours. */
  linkAnswer(callers: string): { readonly header: string; readonly key: Buffer } {
    const own = this.newChallenge();
    return { header: `${own}.${this.sign(["link", callers, own])}`, key: this.keyOf(callers, own) };
  }

  /** @returns the key of the link; null: what answered is no instance of ours */
  linkKey(callers: string, header: string): Buffer | null {
    const [theirs = "", shown = ""] = header.split(".");
    return isSame(this.sign(["link", callers, theirs]), shown) ? this.keyOf(callers, theirs) : null;
  }

  newChallenge(): string {
    return randomBytes(16).toString("hex");
  }

  /** What an instance of ours answers to a challenge. */
  answerTo(challenge: string): string {
    return this.sign(["challenge", challenge]);
  }

  isAnswer(challenge: string, answer: unknown): boolean {
    return typeof answer === "string" && isSame(this.answerTo(challenge), answer);
  }

  private keyOf(callers: string, answerers: string): Buffer {
    return createHmac("sha256", this.secret)
      .update(JSON.stringify(["link key", callers, answerers]))
      .digest();
  }

  private sign(parts: readonly string[]): string {
    return createHmac("sha256", this.secret).update(JSON.stringify(parts)).digest("base64url");
  }
}

function isSame(wanted: string, shown: string): boolean {
  const [one, other] = [Buffer.from(wanted), Buffer.from(shown)];
  return one.length === other.length && timingSafeEqual(one, other);
}

export async function findPeerProof(pool: Pool): Promise<PeerProof> {
  const { rows } = await pool.query<{ secret: Buffer }>("select secret from installation");
  if (!rows[0]) throw new Error("The table “installation” is empty: restore it from the backup.");
  return new PeerProof(rows[0].secret);
}
