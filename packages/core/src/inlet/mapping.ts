/** Values on their way from an arrival to an intent: tables, scales, thresholds. Pure, and exact about what does not fit. */
import { askedNumber } from "../ask/limits.ts";
import type { Mapping } from "./model.ts";

/**
 * @returns null when the value is none that the mapping knows
 * @example mapped("512", { scale: { from: [0, 1023], to: [0, 100] } }) // → 50
 */
export function mapped(value: string, mapping: Mapping): string | number | null {
  if ("table" in mapping) {
    const wanted = value.trim().toLowerCase();
    const found = Object.entries(mapping.table).find(([said]) => said.trim().toLowerCase() === wanted);
    return found ? found[1] : null;
  }
  const number = numberIn(value);
  if (number === null) return null;
  if ("scale" in mapping) return scaled(number, mapping.scale.from, mapping.scale.to);
  return mapping.steps.below.find(([limit]) => number < limit)?.[1] ?? mapping.steps.otherwise;
}

/** Numbers outside the range are taken to its nearer end. */
function scaled(number: number, [low, high]: readonly [number, number], [to, end]: readonly [number, number]): number {
  const share = Math.min(1, Math.max(0, (number - low) / (high - low)));
  return Math.round(to + share * (end - to));
}

function numberIn(text: string): number | null {
  return askedNumber(text.trim());
}
