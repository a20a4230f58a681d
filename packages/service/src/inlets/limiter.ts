/** So many in a minute: a bucket that fills steadily and empties by one for each. */

export class Limiter {
  private readonly perMinute: number;
  private left: number;
  private at: number;

  /** @param now ms of a steady clock */
  constructor(perMinute: number, now: number) {
    this.perMinute = perMinute;
    this.left = perMinute;
    this.at = now;
  }

  /** @returns seconds to wait; null: it may pass */
  take(now: number): number | null {
    this.left = Math.min(this.perMinute, this.left + ((now - this.at) * this.perMinute) / 60_000);
    this.at = now;
    if (this.left < 1) return Math.max(1, Math.ceil(((1 - this.left) * 60) / this.perMinute));
    this.left -= 1;
    return null;
  }
}
