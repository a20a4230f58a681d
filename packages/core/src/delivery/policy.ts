/** How hard a command is tried. Defaults stand at the profile and may be overridden at the channel. */
import type { Aim } from "./stage.ts";

export interface DeliveryPolicy {
  /** The stage that this device can prove; reaching it completes a command. */
  readonly aim: Aim;
  /**
   * When the device reports what a channel is: after every command, or only when it changed. The second kind says
   * nothing when it is asked for what it is already.
   */
  readonly reports: "always" | "onChange";
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
}

export const defaultPolicy: DeliveryPolicy = Object.freeze({
  aim: "confirmed",
  reports: "always",
  ackWithinMs: 2_000,
  attempts: 3,
  ttlMs: 30_000,
  settleMs: 3_000,
  minGapMs: 0,
});
