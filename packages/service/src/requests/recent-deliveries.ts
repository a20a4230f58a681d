/**
 * Arrivals that a broker brings again because it did not get our acknowledgement (MQTT 5, 4.4). Only the process that heard one the first
 * time can know it again, so what became of it is remembered here, and costs no row of its own.
 */
import type { RequestId } from "@bold-relay/core";

interface Delivery {
  /** What it is stored as, if it is. */
  readonly request: RequestId;
  /** Whether it was stored: true, or resolves when that is certain, however long the database takes. */
  isKept: Promise<boolean> | true;
}

/** Told what settles when it is certain whether an arrival was stored. */
export type OnKept = (kept: Promise<boolean>) => void;

/** Many times what a broker may have on its way to us. The oldest are forgotten. */
const MOST_REMEMBERED = 8_192;

export class RecentDeliveries {
  private readonly known = new Map<string, Delivery>();

  /**
   * Takes an arrival, unless it was taken before and stored: then it is that request.
   *
   * @param request what it would be stored as
   * @param certain waits for what is not certain yet, or rejects when that takes too long
   */
  async once<Result>(
    delivery: string,
    request: RequestId,
    certain: (request: RequestId, isKept: Promise<boolean>) => Promise<boolean>,
    take: (onKept: OnKept) => Promise<Result>,
  ): Promise<Result | { readonly original: RequestId }> {
    const before = this.known.get(delivery);
    if (before && (before.isKept === true || (await certain(before.request, before.isKept))))
      return { original: before.request };
    let settle: (kept: Promise<boolean> | boolean) => void = () => {};
    const kept = new Promise<boolean>((resolve) => {
      settle = resolve;
    });
    const entry: Delivery = { request, isKept: kept.catch(() => false) };
    this.remember(delivery, entry);
    // What is certain needs no promise any more: thousands of entries live long enough to cost the garbage collector time.
    kept.then(
      (isKept) => this.settled(delivery, entry, isKept),
      () => this.settled(delivery, entry, false),
    );
    try {
      return await take(settle);
    } finally {
      // Of no effect but where it ended before anything went to the database.
      settle(false);
    }
  }

  private settled(name: string, entry: Delivery, isKept: boolean): void {
    if (isKept) entry.isKept = true;
    else if (this.known.get(name) === entry) this.known.delete(name);
  }

  private remember(name: string, delivery: Delivery): void {
    this.known.delete(name);
    this.known.set(name, delivery);
    if (this.known.size <= MOST_REMEMBERED) return;
    const [oldest] = this.known.keys();
    if (oldest !== undefined) this.known.delete(oldest);
  }
}
