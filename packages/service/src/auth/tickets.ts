/** What waits a few minutes for its second half: a sign-in for its second factor, a passkey for its challenge. In memory only. */
import { randomBytes } from "node:crypto";

const LIVES_MS = 5 * 60_000;
const MOST = 10_000;

export class Tickets<Held> {
  private readonly held = new Map<string, { readonly value: Held; readonly until: number; tries: number }>();
  private readonly most: number;

  /** @param tries how often each may be taken */
  constructor(tries: number) {
    this.most = tries;
  }

  /** @returns the ticket */
  put(value: Held): string {
    const now = performance.now();
    for (const [old, { until }] of this.held) {
      if (this.held.size < MOST && now < until) break;
      this.held.delete(old);
    }
    const ticket = randomBytes(24).toString("base64url");
    this.held.set(ticket, { value, until: now + LIVES_MS, tries: 0 });
    return ticket;
  }

  /** What it stands for; null when there is none, it is over, or it was tried too often. Counts as a try. */
  take(ticket: string): Held | null {
    const known = this.held.get(ticket);
    if (!known || performance.now() > known.until) return null;
    known.tries += 1;
    if (known.tries >= this.most) this.held.delete(ticket);
    return known.value;
  }

  drop(ticket: string): void {
    this.held.delete(ticket);
  }
}
