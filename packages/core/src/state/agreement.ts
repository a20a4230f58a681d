/** Whether a channel is as it was told. Commanded and observed stay two facts; this only compares them. */
import { type Accepted, agrees, type Value } from "../channel/value.ts";

/**
 * - agreed: the device says what it was told, or nothing was ever told
 * - pending: a command is open, or the channel is still on its way to what it was told
 * - drift: they differ and no command is open
 * - unknown: the device never said what the channel is
 */
export type Agreement = "agreed" | "pending" | "drift" | "unknown";

export interface Comparison {
  readonly commanded: Value | null;
  readonly observed: Value | null;
  /** What of the observed values is the commanded one. */
  readonly accepted: Accepted;
  readonly commandOpen: boolean;
  /** The last command may still be taking effect: a dimmer ramps, a blind travels. */
  readonly settling: boolean;
}

export function agreement({ commanded, observed, accepted, commandOpen, settling }: Comparison): Agreement {
  if (commandOpen) return "pending";
  if (observed === null) return "unknown";
  // A pulse is over as soon as it has happened: there is nothing left to agree with.
  if (commanded === null || commanded === "pulse" || agrees(observed, commanded, accepted)) return "agreed";
  return settling ? "pending" : "drift";
}
