/** Wrong keys by address, within a minute: whoever guesses at a typed line is not heard for a while. */

/** From one address within the window. */
const MOST_WRONG = 15;
const WINDOW_MS = 60_000;

export class WrongTries {
  private readonly tries = new Map<string, { count: number; until: number }>();

  note(address: string): void {
    const now = performance.now();
    for (const [old, { until }] of this.tries) if (now > until) this.tries.delete(old);
    const known = this.tries.get(address);
    this.tries.set(address, { count: (known?.count ?? 0) + 1, until: known?.until ?? now + WINDOW_MS });
  }

  /** How long no more is heard from there; 0: it may try. */
  waitMs(address: string): number {
    const known = this.tries.get(address);
    return known && known.count >= MOST_WRONG ? Math.max(0, known.until - performance.now()) : 0;
  }
}
