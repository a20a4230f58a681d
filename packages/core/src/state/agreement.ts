/** Whether a channel is as it was told. Commanded and observed stay two facts; this only compares them. */
import { agrees, type Value } from "../channel/value.ts";
import type { Span } from "../codec/level.ts";

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
  /** Between which numbers an observed one agrees; null: it must be the very number. */
  readonly span: Span | null;
  readonly commandOpen: boolean;
  /** The last command may still be taking effect: a dimmer ramps, a blind travels. */
  readonly settling: boolean;
}

export function agreement({ commanded, observed, span, commandOpen, settling }: Comparison): Agreement {
  if (commandOpen) return "pending";
  if (observed === null) return "unknown";
  // A pulse is over as soon as it has happened: there is nothing left to agree with.
  if (commanded === null || commanded === "pulse" || agrees(observed, commanded, span)) return "agreed";
  return settling ? "pending" : "drift";
}
