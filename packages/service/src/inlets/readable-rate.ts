/** What a person who waits for one thing can read of many: of each topic a few a second, so that one that chatters hides no other. */

/** Of one key, and of all together, in a second. */
const MOST_OF_ONE = 3;
const MOST = 300;

export class ReadableRate {
  private readonly onSkipped: (count: number) => void;
  private readonly timer: NodeJS.Timeout;
  private readonly shown = new Map<string, number>();
  private total = 0;
  private skipped = 0;

  /** @param onSkipped so many were left out in the second that ended; only told where there were any */
  constructor(onSkipped: (count: number) => void) {
    this.onSkipped = onSkipped;
    this.timer = setInterval(() => this.nextSecond(), 1_000);
  }

  /** Whether one more is shown in this second; if not, it is counted. */
  takes(key: string): boolean {
    const before = this.shown.get(key) ?? 0;
    if (before >= MOST_OF_ONE || this.total >= MOST) {
      this.skipped += 1;
      return false;
    }
    this.shown.set(key, before + 1);
    this.total += 1;
    return true;
  }

  stop(): void {
    clearInterval(this.timer);
  }

  private nextSecond(): void {
    if (this.skipped > 0) this.onSkipped(this.skipped);
    this.shown.clear();
    this.total = 0;
    this.skipped = 0;
  }
}
