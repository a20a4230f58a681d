/** Time's share of the pipeline: wakes lanes that are due and journals progress that has waited, in bounded batches. */
import { limits } from "../config/config.ts";
import type { Log } from "../log.ts";
import type { LaneBook } from "./lane-book.ts";
import type { Settle } from "./settle.ts";

const MOST_A_TURN = 2_000;

export class Sweep {
  private readonly lanes: LaneBook;
  private readonly settle: Settle;
  private readonly tidy: () => Promise<void>;
  private readonly log: Log;
  private timer: NodeJS.Timeout | null = null;
  private tidyTimer: NodeJS.Timeout | null = null;

  /** @param tidy what is done once an hour; its failure is a log line */
  constructor(lanes: LaneBook, settle: Settle, tidy: () => Promise<void>, log: Log) {
    this.lanes = lanes;
    this.settle = settle;
    this.tidy = tidy;
    this.log = log;
  }

  start(): void {
    this.timer = setInterval(() => {
      this.lanes.sweep(MOST_A_TURN);
      this.settle.saveProgress(limits.progressAfterMs);
    }, limits.sweepEveryMs);
    this.tidyTimer = setInterval(() => {
      this.tidy().catch((error: unknown) => this.log.warn({ err: error }, "tidying up failed, it will be tried again"));
    }, limits.tidyEveryMs);
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
    if (this.tidyTimer) clearInterval(this.tidyTimer);
  }
}
