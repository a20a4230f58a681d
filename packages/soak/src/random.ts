/** Random numbers from a seed, so that a run can be played again. */

export class Random {
  private state: number;

  /** @param seed a whole number; the same seed draws the same */
  constructor(seed: number) {
    this.state = seed >>> 0;
  }

  /** From 0 up to 1. Mulberry32: small, quick, and even enough for drawing faults. */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) >>> 0;
    let mixed = this.state;
    mixed = Math.imul(mixed ^ (mixed >>> 15), mixed | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 0x1_0000_0000;
  }

  between(least: number, most: number): number {
    return least + this.next() * (most - least);
  }

  /** A whole number from 0 up to `count` - 1. */
  below(count: number): number {
    return Math.floor(this.next() * count);
  }

  pick<Item>(items: readonly Item[]): Item {
    return items[this.below(items.length)] as Item;
  }

  /** A source of its own, so that what one part draws does not depend on how often another did. */
  fork(): Random {
    return new Random(this.below(0x1_0000_0000));
  }
}
