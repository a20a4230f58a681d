/** Time's share of the pipeline: wakes lanes that are due and journals progress that has waited, in bounded batches. */
import { limits } from "../config/config.ts";
import type { Log } from "../log.ts";
import type { DeadlineRunner } from "./deadline-runner.ts";
import type { LaneBook } from "./lane-book.ts";
import type { PowerUps } from "./power-ups.ts";
import type { Settle } from "./settle.ts";

const MOST_A_TURN = 2_000;

export interface SweepParts {
  readonly lanes: LaneBook;
  readonly settle: Settle;
  readonly deadlines: DeadlineRunner;
  readonly powerUps: PowerUps;
  /** What is done once an hour; its failure is a log line. */
  readonly tidy: () => Promise<void>;
  readonly log: Log;
}

export class Sweep {
  private readonly lanes: LaneBook;
  private readonly settle: Settle;
  private readonly deadlines: DeadlineRunner;
  private readonly powerUps: PowerUps;
  private readonly tidy: () => Promise<void>;
  private readonly log: Log;
  private timer: NodeJS.Timeout | null = null;
  private tidyTimer: NodeJS.Timeout | null = null;

  constructor({ lanes, settle, deadlines, powerUps, tidy, log }: SweepParts) {
    this.lanes = lanes;
    this.settle = settle;
    this.deadlines = deadlines;
    this.powerUps = powerUps;
    this.tidy = tidy;
    this.log = log;
  }

  start(): void {
    this.timer = setInterval(() => {
      this.lanes.sweep(MOST_A_TURN);
      this.settle.saveProgress(limits.progressAfterMs);
      this.settle.tellSettled();
      this.powerUps.sweep();
      void this.deadlines.sweep();
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
