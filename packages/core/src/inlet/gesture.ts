/** Which of the events of one movement of a finger somebody means who says "this should do something". Pure. */
import type { InputEvent } from "./press.ts";

export interface GestureEvent {
  readonly event: InputEvent;
  /** No route catches it yet. */
  readonly isFree: boolean;
}

/** A press is over when its input has said nothing for so long, ms: longer than the wait for a second press. */
export const GESTURE_PAUSE_MS = 1_200;

/** Presses, what takes the finger longest first: two short presses are also one, and then another one. */
const PRESSES = ["long", "twice", "once"] as const;

/**
 * A button is made and let go again: its press is meant, not that it is made, which is part of every press. A contact that stays as it is
 * (a door) means what it became.
 *
 * @returns null: every press in it has a route already
 * @example meantBy([{ event: "on", isFree: true }, { event: "once", isFree: false }, { event: "off", isFree: true }]) // → null
 */
export function meantBy(events: readonly GestureEvent[]): InputEvent | null {
  const has = (event: InputEvent) => events.some((one) => one.event === event);
  const isPress = has("long") || (has("on") && has("off"));
  // The press that it was: a shorter one in it is another route's.
  const press = PRESSES.find(has);
  if (isPress && press !== undefined) return events.some((one) => one.event === press && one.isFree) ? press : null;
  return events.find(({ event, isFree }) => isFree && (event === "on" || event === "off"))?.event ?? null;
}
