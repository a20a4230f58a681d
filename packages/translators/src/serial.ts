/** Work for a device that can do one thing at a time, in the order of asking, bounded. */
export class Serial {
  private readonly most: number;
  private last: Promise<unknown> = Promise.resolve();
  private waiting = 0;

  /** @param most how much may wait at any time */
  constructor(most = 32) {
    this.most = most;
  }

  get isFull(): boolean {
    return this.waiting >= this.most;
  }

  run<Result>(work: () => Promise<Result>): Promise<Result> {
    this.waiting += 1;
    const mine = this.last.then(work).finally(() => {
      this.waiting -= 1;
    });
    this.last = mine.catch(() => {});
    return mine;
  }
}
