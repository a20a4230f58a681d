/** Small matters of wording that several pages share. */
import type { ChannelView } from "@bold-relay/api";
import { formatAgo, staleWords } from "@bold-relay/core";

/** @example capital("by hand") // → "By hand" */
export function capital(words: string): string {
  return words.charAt(0).toUpperCase() + words.slice(1);
}

/** Whether a channel is known to be so now: what is old or retained is shown, and counts for nothing. */
export function isKnownNow({ observed }: Pick<ChannelView, "observed">): boolean {
  return observed !== null && observed.stale === null;
}

/** "offline, last seen so 5 min ago"; null: it is known to be so now. */
export function ageWords({ observed }: Pick<ChannelView, "observed">, now: number): string | null {
  if (observed === null || observed.stale === null) return null;
  return staleWords(observed.stale, observed.asOf === null ? null : formatAgo(now - Date.parse(observed.asOf)));
}
