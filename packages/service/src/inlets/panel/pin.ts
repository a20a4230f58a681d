/**
 * The PIN of a panel. Whoever enters it gets a token that stands for it for twelve hours: the PIN is not asked for with every
 * press, and nothing of it is kept in the browser. The token is signed with the hash of the PIN, so that a new PIN ends them all.
 */
import { createHmac, timingSafeEqual } from "node:crypto";
import type { PanelPinView } from "@bold-relay/api";
import { HOUR_MS, RelayError } from "@bold-relay/core";
import { passwordMatches } from "../../auth/password.ts";

const HOLDS_MS = 12 * HOUR_MS;
const MOST_WRONG = 10;
const WINDOW_MS = 300_000;

/** What a PIN is asked for: a key of a panel. */
export interface PinPlace {
  readonly slug: string;
  readonly keyId: number;
  /** undefined: the panel has no PIN. */
  readonly pinHash: string | undefined;
}

export class PanelPins {
  /** Wrong PINs by panel, within the window. */
  private readonly wrong = new Map<string, { count: number; until: number }>();

  /** @throws RelayError wrong-pin, or too-many-attempts */
  async enter(pin: string, place: PinPlace, now: number): Promise<PanelPinView> {
    const { slug, pinHash } = place;
    if (pinHash === undefined) throw new RelayError("bad-request", { why: "This panel has no PIN" });
    const counted = this.wrong.get(slug);
    const known = counted && performance.now() < counted.until ? counted : { count: 0, until: 0 };
    if (known.count >= MOST_WRONG)
      throw new RelayError("too-many-attempts", { seconds: Math.ceil((known.until - performance.now()) / 1000) });
    // Counted before it is looked at: many at once must not have one try each for free.
    const until = known.until || performance.now() + WINDOW_MS;
    this.wrong.set(slug, { count: known.count + 1, until });
    if (!(await passwordMatches(pinHash, pin))) throw new RelayError("wrong-pin");
    const entry = this.wrong.get(slug);
    if (entry) entry.count -= 1;
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
