/**
 * Places between two effects at which a test can make the process die, as a power cut would. Armed by
 * BOLD_RELAY_FAILPOINT only; unarmed they cost one comparison.
 */

export const FAILPOINTS = [
  "before-accept-commit",
  "after-accept-commit",
  "before-write",
  "after-write",
  "on-receipt",
  "on-acknowledgement",
  "on-report",
  "before-sending-commit",
  "after-sending-commit",
  "before-end-commit",
  "after-end-commit",
  "before-deadline-commit",
  "after-deadline-commit",
] as const;
export type Failpoint = (typeof FAILPOINTS)[number];

let armed: Failpoint | null = null;

export function armFailpoint(name: Failpoint): void {
  armed = name;
}

export function isArmed(name: Failpoint): boolean {
  return armed === name;
}

/** Dies here if this is the place, without cleaning up anything. */
export function failHere(name: Failpoint): void {
  if (armed === name) process.kill(process.pid, "SIGKILL");
}
