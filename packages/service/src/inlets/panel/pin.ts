/**
 * The PIN of a panel. Whoever enters it gets a token that stands for it for twelve hours: the PIN is not asked for with every
 * press, and nothing of it is kept in the browser. The token is signed with the hash of the PIN, so that a new PIN ends them all.
 */
import { createHmac, timingSafeEqual } from "node:crypto";
import type { PanelPinView } from "@bold-relay/api";
import { HOUR_MS, RelayError } from "@bold-relay/core";
import { passwordMatches } from "../../auth/password.ts";
import { PinTries } from "../pin-tries.ts";

const HOLDS_MS = 12 * HOUR_MS;

/** What a PIN is asked for: a key of a panel. */
export interface PinPlace {
  readonly slug: string;
  readonly keyId: number;
  /** undefined: the panel has no PIN. */
  readonly pinHash: string | undefined;
}

export class PanelPins {
  private readonly tries = new PinTries();

  /** @throws RelayError wrong-pin, or too-many-attempts */
  async enter(pin: string, place: PinPlace, now: number): Promise<PanelPinView> {
    const { slug, keyId, pinHash } = place;
    if (pinHash === undefined) throw new RelayError("bad-request", { why: "This panel has no PIN" });
    const attempt = this.tries.begin(slug, `key ${keyId}`);
    if (!(await passwordMatches(pinHash, pin))) throw new RelayError("wrong-pin");
    attempt.right();
    const ends = now + HOLDS_MS;
    return { token: `${ends}.${signature(place, pinHash, ends)}`, until: new Date(ends).toISOString() };
  }

  /** @throws RelayError pin-needed when the panel has a PIN and this does not stand for it */
  require(token: string | undefined, place: PinPlace, now: number): void {
    const { pinHash } = place;
    if (pinHash === undefined) return;
    const [ends = "", shown = ""] = (token ?? "").split(".");
    if (!/^\d{1,16}$/.test(ends) || now >= Number(ends)) throw new RelayError("pin-needed");
    const [one, other] = [Buffer.from(shown), Buffer.from(signature(place, pinHash, Number(ends)))];
    if (one.length !== other.length || !timingSafeEqual(one, other)) throw new RelayError("pin-needed");
  }
}

function signature({ slug, keyId }: PinPlace, pinHash: string, ends: number): string {
  return createHmac("sha256", pinHash).update(`panel ${slug} ${keyId} ${ends}`).digest("base64url");
}
