/**
 * Order among requests for the same channel while they are on their way to the journal. Most asks are absolute and
 * simply pass. One that depends on what comes before it ("brighter", a pulse, an interlock) shuts its channels,
 * waits until everything before it has reached its lane, decides, and lets the next ones pass.
 */
import type { ChannelId } from "@bold-relay/core";

export class ChannelLock {
  /** How many commands of a channel are being journaled. */
  private readonly journaling = new Map<ChannelId, number>();
  /** Those who wait until a channel has none. */
  private readonly drained = new Map<ChannelId, () => void>();
  private readonly shut = new Map<ChannelId, Promise<void>>();

  /** Whether one can pass without waiting. */
  isOpen(channels: readonly ChannelId[]): boolean {
    return this.shut.size === 0 || channels.every((channel) => !this.shut.has(channel));
  }

  /** Waits until those who have these channels shut open them; somebody else may have shut one by then. */
  async pass(channels: readonly ChannelId[]): Promise<void> {
    await Promise.all(channels.flatMap((channel) => this.shut.get(channel) ?? []));
  }

  /**
   * Shuts the channels and waits until nothing of theirs is being journaled.
   *
   * @returns opens them again
   */
  async alone(channels: readonly ChannelId[]): Promise<() => void> {
    const opened: (() => void)[] = [];
    // In one order for everybody, so that two who need the same channels never wait for each other.
    for (const channel of [...new Set(channels)].sort((one, other) => one - other)) {
      while (this.shut.has(channel)) await this.shut.get(channel);
      this.shut.set(
        channel,
        new Promise((resolve) => {
          opened.push(() => {
            this.shut.delete(channel);
            resolve();
          });
        }),
      );
    }
    for (const channel of channels) await this.untilDrained(channel);
    return () => {
      for (const open of opened) open();
    };
  }

  /** These are handed to the journal now. */
  enter(channels: readonly ChannelId[]): void {
    for (const channel of channels) this.journaling.set(channel, (this.journaling.get(channel) ?? 0) + 1);
  }

  /** These have reached their lanes, or never will. */
  leave(channels: readonly ChannelId[]): void {
    for (const channel of channels) {
      const left = (this.journaling.get(channel) ?? 1) - 1;
      if (left > 0) {
        this.journaling.set(channel, left);
        continue;
      }
      this.journaling.delete(channel);
      this.drained.get(channel)?.();
      this.drained.delete(channel);
    }
  }

  /** Only whoever has shut the channel waits, so there is one at most. */
  private untilDrained(channel: ChannelId): Promise<void> {
    if (!this.journaling.has(channel)) return Promise.resolve();
    return new Promise((resolve) => {
      this.drained.set(channel, resolve);
    });
  }
}
