/**
 * Wrong PINs, counted by who shows them and by their inlet: the link of a panel, the caller of a keypad. Whoever guesses shuts out
 * themselves: others have a budget of their own. All of an inlet together may not try a thousand PINs either, but for callers who have
 * shown the right one before: they are never shut out by others.
 */
import { DAY_MS, MINUTE_MS, RelayError } from "@bold-relay/core";

const WINDOW_MS = 5 * MINUTE_MS;
/** Wrong PINs: of one in five minutes; of all of an inlet in five minutes, and in a day, but for those who are known. */
const OF_ONE = { most: 10, withinMs: WINDOW_MS } as const;
const OF_ALL = [
  { most: 60, withinMs: WINDOW_MS },
  { most: 300, withinMs: DAY_MS },
] as const;
/** How many who have shown the right one are remembered, the latest. */
const MOST_KNOWN = 5_000;

interface Counted {
  count: number;
  until: number;
}

export class PinTries {
  private readonly counted = new Map<string, Counted>();
  private readonly known = new Set<string>();

  /**
   * Counts a PIN as wrong before it is looked at, until `right` says otherwise: many at once have not one try each for free.
   *
   * @param who of the inlet; null: nobody can tell, and all of these have one budget
   * @throws RelayError too-many-attempts with the seconds to wait
   */
  begin(slug: string, who: string | null): { right(): void } {
    const now = performance.now();
    this.forget(now);
    const one = JSON.stringify([slug, who]);
    const ofAll = this.known.has(one) ? [] : OF_ALL.map((budget) => ({ ...budget, whose: slug }));
    const budgets = [{ ...OF_ONE, whose: one }, ...ofAll].map(({ whose, most, withinMs }) => {
      const name = `${whose} within ${withinMs}`;
      return { name, most, known: this.counted.get(name) ?? { count: 0, until: now + withinMs } };
    });
    const spent = budgets.find(({ known, most }) => known.count >= most);
    if (spent) throw new RelayError("too-many-attempts", { seconds: Math.ceil((spent.known.until - now) / 1000) });
    for (const { name, known } of budgets) {
      known.count += 1;
      this.counted.set(name, known);
    }
    return {
      right: () => {
        for (const { known } of budgets) known.count -= 1;
        if (who !== null) this.remember(one);
      },
    };
  }

  private remember(one: string): void {
    this.known.delete(one);
    this.known.add(one);
    const [oldest] = this.known;
    if (this.known.size > MOST_KNOWN && oldest !== undefined) this.known.delete(oldest);
  }

  private forget(now: number): void {
    for (const [name, { until }] of this.counted) if (until <= now) this.counted.delete(name);
  }
}
