/** Durations as people read them: ms below a second, then seconds, minutes, hours. */

/**
 * @param ms 0 or more; a negative one (two clocks) is shown as 0
 * @example formatDuration(1.42) // → "1.4 ms"
 * @example formatDuration(2310) // → "2.3 s"
 */
export function formatDuration(ms: number): string {
  const whole = Math.max(0, ms);
  if (whole < 9.95) return `${whole.toFixed(1)} ms`;
  if (whole < 999.5) return `${Math.round(whole)} ms`;
  if (whole < 59_950) return `${(whole / 1000).toFixed(1)} s`;
  const minutes = Math.round(whole / 60_000);
  if (minutes < 60) return `${minutes} min`;
  if (minutes < 48 * 60) return `${Math.round(minutes / 60)} h`;
  return `${Math.round(minutes / (24 * 60))} d`;
}

/**
 * How long ago something was.
 *
 * @example formatAgo(125_000) // → "2 min ago"
 */
export function formatAgo(ms: number): string {
  if (ms < 5_000) return "just now";
  if (ms < 60_000) return `${Math.round(ms / 1000)} s ago`;
  return `${formatDuration(ms)} ago`;
}

const UNIT_MS: Record<string, number> = { ms: 1, s: 1_000, min: 60_000, m: 60_000, h: 3_600_000 };

/**
 * Reads a duration as people write it; without a unit it is seconds.
 *
 * @returns ms, or null when it is none
 * @example parseDuration("5 min") // → 300000
 */
export function parseDuration(text: string): number | null {
  const match = /^([-+]?\d{1,12}(?:\.\d{1,6})?)\s*(ms|s|min|m|h)?$/.exec(text.trim().toLowerCase());
  if (!match) return null;
  return Math.round(Number(match[1]) * (UNIT_MS[match[2] ?? "s"] ?? 1_000));
}
