/** What a device's comings and goings tell: two boards with one client id, a board that restarts again and again. Pure. */

export interface PresenceEvent {
  readonly up: boolean;
  /** Changes with every power-up; null: the device does not say. */
  readonly boot: string | null;
  /** ms since 1970. */
  readonly at: number;
}

/**
 * - twin: two boards have the same client id, and throw each other off the broker
 * - reboot-loop: it restarts again and again
 * - flapping: it goes and comes, and nothing tells which of the two it is
 */
export type PresencePattern = "twin" | "reboot-loop" | "flapping";

/** How far back is looked, ms. */
export const PATTERN_WITHIN_MS = 120_000;
/** So many returns within that time are no accident. */
const MANY_RETURNS = 3;
/** A broker tells that a client was taken over in the moment in which the other one connects; a restart takes longer, ms. */
const TAKEN_OVER_WITHIN_MS = 400;

/**
 * @param events oldest first
 * @returns null when nothing is conspicuous
 */
export function presencePattern(events: readonly PresenceEvent[], now: number): PresencePattern | null {
  const recent = events.filter(({ at }) => now - at <= PATTERN_WITHIN_MS);
  const ups = recent.filter(({ up }) => up);
  const gaps = recent.flatMap(({ up, at }, index) => {
    const before = recent[index - 1];
    return up && before && !before.up ? [at - before.at] : [];
  });
  const boots = ups.flatMap(({ boot }) => boot ?? []);
  const changes = boots.filter((boot, index) => index > 0 && boot !== boots[index - 1]);
  if (gaps.length < MANY_RETURNS && changes.length < MANY_RETURNS) return null;
  if (boots.length > MANY_RETURNS) {
    // One mark that comes back after another was heard is a second board: a restart never has an old mark.
    if (changes.some((boot) => boots.indexOf(boot) < boots.lastIndexOf(boot) && alternates(boots, boot))) return "twin";
    if (changes.length >= MANY_RETURNS) return "reboot-loop";
  }
  const taken = gaps.filter((gap) => gap <= TAKEN_OVER_WITHIN_MS).length;
  return taken >= MANY_RETURNS && taken * 2 > gaps.length ? "twin" : "flapping";
}

/** Whether another mark stands between two of the same. */
function alternates(boots: readonly string[], boot: string): boolean {
  const [first, last] = [boots.indexOf(boot), boots.lastIndexOf(boot)];
  return boots.slice(first, last).some((one) => one !== boot);
}

/** For alert and commissioning alike. */
export const PATTERN_WORDS: Readonly<Record<PresencePattern, { readonly text: string; readonly tryThis: string }>> = {
  twin: {
    text: "Two boards use the same client id: each throws the other off the broker.",
    tryThis: "Give each board a client id and a broker user of its own.",
  },
  "reboot-loop": {
    text: "The board restarts again and again: each time it reports a new power-up.",
    tryThis: "Check its power supply, and what it does when it starts.",
  },
  flapping: {
    text: "The board goes offline and comes back again and again.",
    tryThis: "Check its network. If two boards have the same client id, each throws the other off: give each its own.",
  },
};
