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

  /**
   * @param among how many limiters share what may come: each lets its part through
   * @returns seconds to wait; null: it may pass
   */
  take(now: number, among = 1): number | null {
    // One at least, or a small limit would let nothing through.
    const cost = Math.min(among, this.perMinute);
    this.left = Math.min(this.perMinute, this.left + ((now - this.at) * this.perMinute) / 60_000);
    this.at = now;
    if (this.left < cost) return Math.max(1, Math.ceil(((cost - this.left) * 60) / this.perMinute));
    this.left -= cost;
    return null;
  }
}
