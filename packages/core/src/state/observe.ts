/** What a channel is, as its device says: each change is kept with its cause, the same again is nothing new. */
import type { Value } from "../channel/kind.ts";
import type { Report } from "../delivery/transition.ts";
import type { CommandId } from "../id.ts";

/** What made a channel what it is. `unknown`: the device does not say, and no command explains it. */
export const CAUSES = ["command", "hand", "timer", "boot", "unknown"] as const;
export type Cause = (typeof CAUSES)[number];

export interface Observed {
  readonly value: Value;
  readonly cause: Cause;
  /** The command that caused it, where one did. */
  readonly commandId: CommandId | null;
  /** When it became so, as far as we know, ms since 1970. */
  readonly at: number;
}

export interface Observation {
  readonly next: Observed;
  /** The change to journal; null when the report says what was known already. */
  readonly change: { readonly from: Value | null; readonly to: Observed } | null;
}

/**
 * Folds one report into what is known.
 *
 * @param provenBy the command that this report confirmed, if it did
 * @param now ms since 1970
 * @example observe({ value: "off", … }, { value: "on", by: "hand", … }, null, now)
 *   // → change from "off" to { value: "on", cause: "hand", … }
 */
export function observe(known: Observed | null, report: Report, provenBy: CommandId | null, now: number): Observation {
  if (known !== null && known.value === report.value) return { next: known, change: null };
  const commandId = provenBy ?? (report.by === "command" ? report.id : null);
  const cause: Cause = provenBy !== null ? "command" : (report.by ?? "unknown");
  const to: Observed = { value: report.value, cause, commandId, at: now };
  return { next: to, change: { from: known?.value ?? null, to } };
}
