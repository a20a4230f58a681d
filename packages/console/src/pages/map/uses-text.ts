/** How often something was used, and when last. */
import type { MapUseView } from "@bold-relay/api";
import { when } from "../../parts/time.ts";

/** @example usesText({ count: 3, lastAt: "2026-11-26T18:47:00Z", lastBy: "ana" }) // → "3 times, last 26 Nov 2026, 18:47 by ana" */
export function usesText({ count, lastAt, lastBy }: MapUseView): string {
  if (lastAt === null) return "none counted";
  const last = `last ${when.dateTime(lastAt)}${lastBy === "" ? "" : ` by ${lastBy}`}`;
  return `${count === 1 ? "once" : `${count} times`}, ${last}`;
}
