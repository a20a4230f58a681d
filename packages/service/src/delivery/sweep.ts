/** Time's share of the pipeline: wakes lanes that are due and journals progress that has waited, in bounded batches. */

import type { CommandRecorder } from "../delivery/command-recorder.ts";
import type { DeadlineRunner } from "../delivery/deadline-runner.ts";
import type { LaneRunner } from "../delivery/lane-runner.ts";
import type { PowerUps } from "../delivery/power-ups.ts";
import type { SilentDevices } from "../delivery/silent-devices.ts";
import type { StateQueries } from "../delivery/state-queries.ts";
import { limits } from "../platform/config/limits.ts";

const MOST_A_TURN = 2_000;

export interface SweepDeps {
  readonly lanes: LaneRunner;
  readonly recorder: CommandRecorder;
  readonly deadlines: DeadlineRunner;
  readonly powerUps: PowerUps;
  readonly stateQueries: StateQueries;
  readonly silentDevices: SilentDevices;
}

export class Sweep {
  private readonly lanes: LaneRunner;
  private readonly recorder: CommandRecorder;
  private readonly deadlines: DeadlineRunner;
  private readonly powerUps: PowerUps;
  private readonly stateQueries: StateQueries;
  private readonly silentDevices: SilentDevices;
  private timer: NodeJS.Timeout | null = null;

  constructor({ lanes, recorder, deadlines, powerUps, stateQueries, silentDevices }: SweepDeps) {
    this.stateQueries = stateQueries;
    this.silentDevices = silentDevices;
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
      this.stateQueries.sweep();
      this.silentDevices.sweep();
      void this.deadlines.sweep();
    }, limits.sweepEveryMs);
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
  }
}
