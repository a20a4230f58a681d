/** How hard a command is tried. Defaults stand at the profile and may be overridden at the channel. */
import type { Value } from "../channel/value.ts";
import type { TargetStage } from "./stage.ts";

export interface DeliveryPolicy {
  /** The stage that this device can prove; reaching it completes a command. */
  readonly targetStage: TargetStage;
  /**
   * When the device reports what a channel is: after every command, or only when it changed. The second kind says
   * nothing when it is asked for what it is already.
   */
  readonly reports: "always" | "onChange";
  /** How often the device reports at least, also when nothing changes, ms; null: on changes only. 1 000 to 86 400 000. */
  readonly reportsEveryMs: number | null;
  /** How long one attempt waits for its acknowledgement, ms. 10 to 600 000. */
  readonly ackWithinMs: number;
  /** How often a command is written at most. 1 to 10. */
  readonly attempts: number;
  /** Time to live from the asking, ms: no attempt starts later. 100 to 86 400 000. */
  readonly ttlMs: number;
  /** How long after the acknowledgement the device's report may take, ms. 10 to 600 000. */
  readonly settleMs: number;
  /** Least time between two publishes to this channel, ms. 0 to 60 000. */
  readonly minGapMs: number;
  /**
   * How far a reported number may lie from the one that was written and still agree, in the device's own numbers; of a reading: how far
   * it moves before it is stored. 0 to 65 535.
   */
  readonly tolerance: number;
  /**
   * How far apart two equal reports of a position must lie to prove that it stands, ms; null: a twentieth of `settleMs`, 1 s at least.
   * Longer than the device takes from one of its numbers to the next. 100 to 600 000.
   */
  readonly stillMs: number | null;
  /** How long after a write the device is asked what the channel is, ms; null: it is not. 50 to 600 000. */
  readonly askAfterMs: number | null;
  /** How often it is asked in any case, ms; null: never. 1 000 to 86 400 000. */
  readonly askEveryMs: number | null;
  /** The device counts as offline when nothing was heard of it for so long, ms; null: by its presence topic alone. 2 000 to 86 400 000. */
  readonly offlineAfterMs: number | null;
  /** What happens to a request while the device itself says that it is off the broker. */
  readonly whenAbsent: "hold" | "refuse";
  /** What the service does once the device says that it was powered up anew. */
  readonly powerUp: "keep" | "restore" | "safe";
  /** The value in which the channel can do no harm; null: its kind's own, off or 0. */
  readonly safe: Value | null;
  /** Longest time the channel may stay on, ms; null: for as long as it likes. 1 000 to 86 400 000. */
  readonly autoOffMs: number | null;
  /** How long one press of a hold-to-run lasts unless it is renewed, ms; null: it is not held. 200 to 60 000. */
  readonly holdForMs: number | null;
  /** Whether the device understands `for` and ends a timed command by itself. */
  readonly timesItself: boolean;
  /** Whether the device keeps the ids it has seen, so that the same pulse written twice acts once. */
  readonly knowsRepeats: boolean;
}

/** How far apart two equal reports of a position must lie to prove that it stands, ms. */
export function stillWithin({ stillMs, settleMs }: Pick<DeliveryPolicy, "stillMs" | "settleMs">): number {
  return stillMs ?? Math.max(1_000, settleMs / 20);
}

export const defaultPolicy: DeliveryPolicy = Object.freeze({
  targetStage: "confirmed",
  reports: "always",
  reportsEveryMs: null,
  ackWithinMs: 2_000,
  attempts: 3,
  ttlMs: 30_000,
  settleMs: 3_000,
  minGapMs: 0,
  tolerance: 0,
  stillMs: null,
  askAfterMs: null,
  askEveryMs: null,
  offlineAfterMs: null,
  whenAbsent: "hold",
  powerUp: "keep",
  safe: null,
  autoOffMs: null,
  holdForMs: null,
  timesItself: false,
  knowsRepeats: false,
});
