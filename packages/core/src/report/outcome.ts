/** What became of a request: the sum of what became of its commands. */
import type { End } from "../delivery/stage.ts";

export const OUTCOMES = [
  "open",
  "delivered",
  "partly-delivered",
  "not-delivered",
  "replaced",
  "refused",
  "not-understood",
] as const;
export type Outcome = (typeof OUTCOMES)[number];

/**
 * @param ends one entry a command, null while it is open
 * @example outcomeOf(["delivered", "failed"]) // → "partly-delivered"
 */
export function outcomeOf(ends: readonly (End | null)[]): Outcome {
  if (ends.length === 0 || ends.includes(null)) return "open";
  const delivered = ends.filter((end) => end === "delivered").length;
  if (delivered === ends.length) return "delivered";
  if (delivered > 0) return "partly-delivered";
  return ends.every((end) => end === "replaced" || end === "overtaken") ? "replaced" : "not-delivered";
}

/** An outcome, or a result in the log, as people read it. @example outcomeWords("not-understood") // → "not understood" */
export function outcomeWords(outcome: string): string {
  return outcome.replaceAll("-", " ");
}
