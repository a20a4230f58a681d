/** Devices that say nothing of their presence, and are there as long as they are heard: silent for longer than their profile says, they are offline. */
import type { ChannelEntry, Snapshot } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Board } from "../state/board.ts";
import type { Feed } from "../state/live-feed.ts";

export interface SilenceDeps {
  readonly clock: Clock;
  readonly board: Board;
  readonly feed: Feed;
  /** Those that the link is for. */
  readonly channels: () => readonly ChannelEntry[];
}

interface Watched {
  readonly device: string;
  readonly channels: readonly ChannelEntry[];
  readonly afterMs: number;
}

export class Silence {
  private readonly deps: SilenceDeps;
  /** By device when it was heard last, ms since 1970. */
  private readonly heardAt = new Map<string, number>();
  /** Before this nothing could be heard, ms since 1970. */
  private listensSince = Number.POSITIVE_INFINITY;
  private watched: { readonly of: Snapshot; readonly devices: readonly Watched[] } | null = null;

  constructor(deps: SilenceDeps) {
    this.deps = deps;
  }

  linkUp(): void {
    this.listensSince = this.deps.clock.now();
  }

  linkLost(): void {
    this.heardAt.clear();
    this.listensSince = Number.POSITIVE_INFINITY;
  }

  heard(device: string): void {
    this.heardAt.set(device, this.deps.clock.now());
  }

  sweep(): void {
    const { clock, board, feed } = this.deps;
    const now = clock.now();
    for (const { device, channels, afterMs } of this.devices(board.snapshot)) {
      const since = Math.max(this.heardAt.get(device) ?? 0, this.listensSince);
      if (now - since < afterMs || board.presenceOf(device)?.up === false) continue;
      board.setPresence(device, { up: false, boot: null, since: now });
      for (const { id } of channels) {
        board.unhear(id);
        feed.channelChanged(id);
      }
    }
  }

  private devices(snapshot: Snapshot): readonly Watched[] {
    if (this.watched?.of !== snapshot) this.watched = { of: snapshot, devices: this.find() };
    return this.watched.devices;
  }

  private find(): Watched[] {
    const byDevice = new Map<string, ChannelEntry[]>();
    for (const channel of this.deps.channels()) {
      if (channel.policy.offlineAfterMs === null) continue;
      const { address } = channel.device;
      byDevice.set(address, [...(byDevice.get(address) ?? []), channel]);
    }
    return [...byDevice].map(([device, channels]) => {
      const afterMs = Math.max(...channels.map(({ policy }) => policy.offlineAfterMs ?? 0));
      return { device, channels: this.deps.board.channelsOf(device), afterMs };
    });
  }
}
