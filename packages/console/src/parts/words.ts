/** Small alerts of wording that several pages share. */
import type { ChannelView } from "@bold-relay/api";
import { formatAgo, staleWords } from "@bold-relay/core";

/** @example capital("by hand") // → "By hand" */
export function capital(words: string): string {
  return words.charAt(0).toUpperCase() + words.slice(1);
}

/** 18:47:09 in this browser's time zone, with the day where it is not today. */
export function timeOfDay(at: string): string {
  const time = new Date(at);
  const day = time.toDateString() === new Date().toDateString() ? "" : `${time.toLocaleDateString()} `;
  return `${day}${time.toLocaleTimeString([], { hour12: false })}`;
}

/** A day and a time in the reader's locale: "27/11/2026, 10:42". */
export function dateText(at: string): string {
  return new Date(at).toLocaleString([], { dateStyle: "short", timeStyle: "short" });
}

/** A date of the calendar, wherever the reader is. @example dayOfWeek("2026-11-26") // → "Thu 26 Nov" */
export function dayOfWeek(day: string): string {
  const form = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short", timeZone: "UTC" });
  return form.format(new Date(`${day}T00:00:00Z`));
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
