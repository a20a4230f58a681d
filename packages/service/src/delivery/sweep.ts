/** Time's share of the pipeline: wakes lanes that are due and journals progress that has waited, in bounded batches. */

import type { CommandRecorder } from "../delivery/command-recorder.ts";
import type { DeadlineRunner } from "../delivery/deadline-runner.ts";
import type { LaneRunner } from "../delivery/lane-runner.ts";
import type { PowerUps } from "../delivery/power-ups.ts";
import type { Questions } from "../delivery/questions.ts";
import type { Silence } from "../delivery/silence.ts";
import { limits } from "../platform/config/limits.ts";

const MOST_A_TURN = 2_000;

export interface SweepDeps {
  readonly lanes: LaneRunner;
  readonly recorder: CommandRecorder;
  readonly deadlines: DeadlineRunner;
  readonly powerUps: PowerUps;
  readonly questions: Questions;
  readonly silence: Silence;
}

export class Sweep {
  private readonly lanes: LaneRunner;
  private readonly recorder: CommandRecorder;
  private readonly deadlines: DeadlineRunner;
  private readonly powerUps: PowerUps;
  private readonly questions: Questions;
  private readonly silence: Silence;
  private timer: NodeJS.Timeout | null = null;

  constructor({ lanes, recorder, deadlines, powerUps, questions, silence }: SweepDeps) {
    this.questions = questions;
    this.silence = silence;
    this.lanes = lanes;
    this.recorder = recorder;
    this.deadlines = deadlines;
    this.powerUps = powerUps;
  }

  start(): void {
    this.timer = setInterval(() => {
      this.lanes.sweep(MOST_A_TURN);
      this.recorder.saveProgress(limits.progressAfterMs);
      this.recorder.tellSettled();
      this.powerUps.sweep();
      this.questions.sweep();
      this.silence.sweep();
      void this.deadlines.sweep();
    }, limits.sweepEveryMs);
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
  }
}
