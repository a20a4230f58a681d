/** What inputs of devices tell, as it comes: for inlets whose requests begin at a button, and for whoever listens for one. */
import { type ChannelEntry, type InputLevel, isSwitchInput, type Value } from "@bold-relay/core";
import type { Log } from "../platform/log.ts";

export interface InputReport {
  readonly channel: ChannelEntry;
  readonly level: InputLevel;
  /** What it was known to be until then; null: nobody knew. */
  readonly before: InputLevel | null;
  /** Told now; a retained message only says how it was left. */
  readonly live: boolean;
}

export interface InputWatcher {
  readonly told: (report: InputReport) => void;
  /** What these inputs do meanwhile is not heard; null: of none. */
  readonly lost: (channels: readonly ChannelEntry[] | null) => void;
}

export class InputFeed {
  private readonly log: Log;
  private readonly watchers = new Set<InputWatcher>();

  constructor(log: Log) {
    this.log = log;
  }

  /** @returns ends it */
  watch(watcher: InputWatcher): () => void {
    this.watchers.add(watcher);
    return () => this.watchers.delete(watcher);
  }

  /** Takes any report; those of other channels than switch inputs are nothing to it. */
  take(channel: ChannelEntry, value: Value, before: Value | null, live: boolean): void {
    if (this.watchers.size === 0 || !isSwitchInput(channel)) return;
    const level = levelOf(value);
    if (level === null) return;
    this.tell(({ told }) => told({ channel, level, before: levelOf(before), live }));
  }

  lose(channels: readonly ChannelEntry[] | null): void {
    this.tell(({ lost }) => lost(channels));
  }

  /** A watcher that throws must not keep a report from the commands that wait for it. */
  private tell(how: (watcher: InputWatcher) => void): void {
    for (const watcher of this.watchers) {
      try {
        how(watcher);
      } catch (error) {
        this.log.error({ err: error }, "an input could not be told");
      }
    }
  }
}

function levelOf(value: Value | null): InputLevel | null {
  return value === "on" || value === "off" ? value : null;
}
