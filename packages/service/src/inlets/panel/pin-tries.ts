/**
 * Wrong PINs, counted by the key that shows them and by its inlet. Whoever guesses with one link shuts out that link: the others have a
 * budget of their own. All links of an inlet together may not try a thousand PINs either.
 */
import { RelayError } from "@bold-relay/core";

/** Wrong PINs within the window. */
const MOST = { key: 10, inlet: 60 } as const;
const WINDOW_MS = 300_000;

interface Counted {
  count: number;
  until: number;
}

export class PinTries {
  private readonly counted = new Map<string, Counted>();

  /**
   * Counts a PIN as wrong before it is looked at, until `right` says otherwise: many at once have not one try each for free.
   *
   * @throws RelayError too-many-attempts with the seconds to wait
   */
  begin(slug: string, keyId: number): { right(): void } {
    const now = performance.now();
    this.forget(now);
    const budgets = [
      { name: `key ${keyId} of ${slug}`, most: MOST.key },
      { name: `inlet ${slug}`, most: MOST.inlet },
    ].map(({ name, most }) => ({ name, most, known: this.counted.get(name) ?? { count: 0, until: now + WINDOW_MS } }));
    const spent = budgets.find(({ known, most }) => known.count >= most);
    if (spent) throw new RelayError("too-many-attempts", { seconds: Math.ceil((spent.known.until - now) / 1000) });
    for (const { name, known } of budgets) {
      known.count += 1;
      this.counted.set(name, known);
    }
    return {
      right() {
        for (const { known } of budgets) known.count -= 1;
      },
    };
  }

  private forget(now: number): void {
    for (const [name, { until }] of this.counted) if (until <= now) this.counted.delete(name);
  }
}
