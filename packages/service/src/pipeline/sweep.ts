/** Time's share of the pipeline: wakes lanes that are due and journals progress that has waited, in bounded batches. */
import { limits } from "../config/config.ts";
import type { LaneBook } from "./lane-book.ts";
import type { Settle } from "./settle.ts";

const MOST_A_TURN = 2_000;

export class Sweep {
  private readonly lanes: LaneBook;
  private readonly settle: Settle;
  private timer: NodeJS.Timeout | null = null;

  constructor(lanes: LaneBook, settle: Settle) {
    this.lanes = lanes;
    this.settle = settle;
  }

  start(): void {
    this.timer = setInterval(() => {
      this.lanes.sweep(MOST_A_TURN);
      this.settle.saveProgress(limits.progressAfterMs);
    }, limits.sweepEveryMs);
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
  }
}
