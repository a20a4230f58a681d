/** Whether a channel is as it was told. Commanded and observed stay two facts; this only compares them. */
import type { Value } from "../channel/kind.ts";

/**
 * - agreed: the device says what it was told, or nothing was ever told
 * - pending: a command is open
 * - drift: they differ and no command is open
 * - unknown: the device never said what the channel is
 */
export type Agreement = "agreed" | "pending" | "drift" | "unknown";

export function agreement(commanded: Value | null, observed: Value | null, commandOpen: boolean): Agreement {
  if (commandOpen) return "pending";
  if (observed === null) return "unknown";
  return commanded === null || commanded === observed ? "agreed" : "drift";
}
