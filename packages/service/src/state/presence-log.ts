/** When devices went and came lately: for what that tells of them. */
import { PATTERN_WITHIN_MS, type PresenceEvent, type PresencePattern, presencePattern } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";

/** How many comings and goings are remembered of a device. */
const MOST_EVENTS = 40;

export class PresenceLog {
  private readonly clock: Clock;
  private readonly events = new Map<string, PresenceEvent[]>();

  constructor(clock: Clock) {
    this.clock = clock;
  }

  add(device: string, event: PresenceEvent): void {
    const events = this.events.get(device) ?? [];
    this.events.set(device, events);
    events.push(event);
    if (events.length > MOST_EVENTS) events.shift();
  }

  /** Of the last while, oldest first. */
  eventsOf(device: string): readonly PresenceEvent[] {
    const oldest = this.clock.now() - PATTERN_WITHIN_MS;
    return (this.events.get(device) ?? []).filter(({ at }) => at >= oldest);
  }

  /** What another instance has seen, which looks after the device. */
  follow(device: string, events: readonly PresenceEvent[]): void {
    if (events.length > 0) this.events.set(device, [...events]);
    else this.events.delete(device);
  }

  /** After the link was lost nobody can say how often a device went meanwhile. */
  forget(device: string): void {
    this.events.delete(device);
  }

  /** @returns null when nothing is conspicuous */
  patternOf(device: string): PresencePattern | null {
    const events = this.events.get(device);
    if (!events) return null;
    const now = this.clock.now();
    if (now - (events.at(-1)?.at ?? 0) > PATTERN_WITHIN_MS) this.events.delete(device);
    return presencePattern(events, now);
  }
}
