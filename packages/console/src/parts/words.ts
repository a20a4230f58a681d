/** Small matters of wording that several pages share. */

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

/** A date of the calendar, wherever the reader is. @example dayOfWeek("2026-11-26") // → "Thu, 26 Nov" */
export function dayOfWeek(day: string): string {
  const form = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short", timeZone: "UTC" });
  return form.format(new Date(`${day}T00:00:00Z`));
}
