/**
 * What one channel of a translated device is by the device's own word, and which command that shows.
 *
 * A report names a command only when it was seen after the device had answered that command. What is seen while a command
 * waits for its answer may be older than the command: a poll that was on its way shows the state from before. It is kept, and
 * looked at once the answer is there; a command that the device refused is never named.
 */
import type { Value } from "@bold-relay/core";
import type { FarAnswer } from "./device-driver.ts";

export interface Seen {
  readonly value: Value;
  /** null: the device does not say. */
  readonly by: "hand" | "timer" | "boot" | null;
}

export interface Report {
  readonly value: Value;
  readonly by: "command" | "hand" | "timer" | "boot" | null;
  /** The command that this shows; null: none. */
  readonly id: string | null;
}

/** A setpoint that the device took. `id` null: the translator's own, at the end of a time. */
export interface Setpoint {
  readonly to: Value;
  readonly id: string | null;
}

/** Most that is kept while a command waits for its answer; the oldest is dropped first. */
const MOST_KEPT = 16;

export class ChannelReports {
  private value: Value | null = null;
  private taken: Setpoint | null = null;
  /** The service still waits to hear what the channel is, even if that is what it was before. */
  private isAwaited = false;
  private underWay = 0;
  private readonly kept: Seen[] = [];

  /** What the channel is, for whoever connects now; nothing before the device has said so. */
  get now(): readonly Report[] {
    return this.value === null ? [] : [{ value: this.value, by: null, id: null }];
  }

  /** A setpoint is about to be passed on. */
  begin(): void {
    this.underWay += 1;
  }

  /** The device has answered it. @returns what to report now, in order */
  answered(setpoint: Setpoint, answer: FarAnswer): readonly Report[] {
    this.underWay -= 1;
    if (answer.ok !== false) {
      this.taken = setpoint;
      this.isAwaited = true;
    }
    const is = answer.ok === true ? answer.is : null;
    const kept = this.underWay === 0 ? this.kept.splice(0) : [];
    // A hand is news whenever it came; of everything else the answer itself is the newest word.
    const older = (is === null ? kept : kept.filter(({ by }) => by !== null)).flatMap((one) => this.look(one));
    return is === null ? older : [...older, this.shown(is, setpoint)];
  }

  /** The device told, or was asked. @returns what to report now */
  see(seen: Seen): readonly Report[] {
    if (this.underWay === 0) return this.look(seen);
    this.kept.push(seen);
    if (this.kept.length > MOST_KEPT) this.kept.shift();
    return [];
  }

  private look({ value, by }: Seen): readonly Report[] {
    const shows = this.taken?.to === value ? this.taken : null;
    if (this.value === value && !(shows && this.isAwaited)) return [];
    if (shows && by === null) return [this.shown(value, shows)];
    if (shows) this.isAwaited = false;
    this.value = value;
    return [{ value, by, id: null }];
  }

  private shown(value: Value, { id }: Setpoint): Report {
    this.value = value;
    this.isAwaited = false;
    return { value, by: id === null ? "timer" : "command", id };
  }
}
