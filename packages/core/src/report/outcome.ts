/** What became of a request: the sum of what became of its commands. */
import type { End } from "../delivery/stage.ts";

export const OUTCOMES = ["open", "complete", "partly", "not-at-all", "superseded", "refused", "unmatched"] as const;
export type Outcome = (typeof OUTCOMES)[number];

/**
 * @param ends one entry a command, null while it is open
 * @example outcomeOf(["complete", "failed"]) // → "partly"
 */
export function outcomeOf(ends: readonly (End | null)[]): Outcome {
  if (ends.length === 0 || ends.includes(null)) return "open";
  const complete = ends.filter((end) => end === "complete").length;
  if (complete === ends.length) return "complete";
  if (complete > 0) return "partly";
  return ends.every((end) => end === "superseded" || end === "overtaken") ? "superseded" : "not-at-all";
}
