/** The presses of many inputs: each has its state, and a timer where the end of something is waited for. */
import {
  type ChannelEntry,
  type ChannelId,
  type InputEvent,
  type PressInput,
  type PressState,
  type PressStep,
  pressReport,
  pressTime,
  pressUnseen,
  UNPRESSED,
} from "@bold-relay/core";
import type { InputReport, InputWatcher } from "../state/input-feed.ts";

export interface PressesDeps {
  /** How presses of a channel are told apart, and what is waited for; null: nothing of it is. */
  readonly inputOf: (channel: ChannelEntry) => PressInput | null;
  readonly onEvent: (channel: ChannelEntry, event: InputEvent) => void;
}

interface Watched {
  readonly channel: ChannelEntry;
  readonly input: PressInput;
  state: PressState;
  timer: NodeJS.Timeout | null;
}

export class Presses implements InputWatcher {
  private readonly deps: PressesDeps;
  private readonly watched = new Map<ChannelId, Watched>();

  constructor(deps: PressesDeps) {
    this.deps = deps;
  }

  readonly told = ({ channel, level, before, live }: InputReport): void => {
    const one = this.of(channel);
    if (one === null) return;
    // A retained message is no press: it only says how things stand.
    if (live) this.step(one, pressReport(one.state, level, before, performance.now(), one.input));
    else this.forget(one, level);
  };

  readonly lost = (channels: readonly ChannelEntry[] | null): void => {
    const ids = channels && new Set(channels.map(({ id }) => id));
    for (const [id, one] of this.watched) if (ids === null || ids.has(id)) this.forget(one, null);
  };

  stop(): void {
    for (const one of this.watched.values()) if (one.timer) clearTimeout(one.timer);
    this.watched.clear();
  }

  private of(channel: ChannelEntry): Watched | null {
    const known = this.watched.get(channel.id);
    if (known?.channel === channel) return known;
    const input = this.deps.inputOf(channel);
    if (input === null) return null;
    if (known?.timer) clearTimeout(known.timer);
    const made = { channel, input, state: known?.state ?? UNPRESSED, timer: null };
    this.watched.set(channel.id, made);
    return made;
  }

  private forget(one: Watched, level: InputReport["level"] | null): void {
    if (one.timer) clearTimeout(one.timer);
    one.timer = null;
    one.state = pressUnseen(level);
  }

  private step(one: Watched, { next, events, wakeAt }: PressStep): void {
    if (one.timer) clearTimeout(one.timer);
    one.state = next;
    one.timer = wakeAt === null ? null : setTimeout(() => this.wake(one), Math.max(0, wakeAt - performance.now()));
    for (const event of events) this.deps.onEvent(one.channel, event);
  }

  private wake(one: Watched): void {
    this.step(one, pressTime(one.state, performance.now(), one.input));
  }
}
