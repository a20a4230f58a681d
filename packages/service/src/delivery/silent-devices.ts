/** Devices that say nothing of their presence, and are there as long as they are heard: silent for longer than their profile says, they are offline. */
import type { ChannelEntry, Snapshot } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Board } from "../state/board.ts";
import type { Feed } from "../state/live-feed.ts";

export interface SilentDevicesDeps {
  readonly clock: Clock;
  readonly board: Board;
  readonly feed: Feed;
  /** Those that the link is for. */
  readonly channels: () => readonly ChannelEntry[];
}

export class SilentDevices {
  private readonly deps: SilentDevicesDeps;
  /** By device when it was heard last, or could be heard first, ms since 1970. */
  private readonly heardAt = new Map<string, number>();
  /** Before this nothing could be heard, ms since 1970. */
  private listensSince = Number.POSITIVE_INFINITY;
  /** By device how long it may be silent, ms. Found once for each model. */
  private watched: { readonly of: Snapshot; readonly afterMs: ReadonlyMap<string, number> } | null = null;

  constructor(deps: SilentDevicesDeps) {
    this.deps = deps;
  }

  linkUp(): void {
    this.listensSince = this.deps.clock.now();
  }

  linkLost(): void {
    this.heardAt.clear();
    this.listensSince = Number.POSITIVE_INFINITY;
  }

  /** Whether being heard is all that tells that a device is there. */
  watches(device: string): boolean {
    return this.limits().has(device);
  }

  heard(device: string): void {
    if (this.watches(device)) this.heardAt.set(device, this.deps.clock.now());
  }

  sweep(): void {
    const { clock, board, feed } = this.deps;
    const now = clock.now();
    for (const [device, afterMs] of this.limits()) {
      const since = this.heardAt.get(device) ?? this.listensSince;
      if (now - since < afterMs || board.presenceOf(device)?.up === false) continue;
      board.setPresence(device, { up: false, boot: null, since: now });
      for (const { id } of board.channelsOf(device)) {
        board.unhear(id);
        feed.channelChanged(id);
      }
    }
  }

  private limits(): ReadonlyMap<string, number> {
    const { snapshot } = this.deps.board;
    if (this.watched?.of === snapshot) return this.watched.afterMs;
    const before = this.watched?.afterMs;
    const afterMs = this.find();
    // One that is new here was not silent before: nobody listened to it.
    for (const device of afterMs.keys())
      if (before && !before.has(device)) this.heardAt.set(device, this.deps.clock.now());
    for (const device of this.heardAt.keys()) if (!afterMs.has(device)) this.heardAt.delete(device);
    this.watched = { of: snapshot, afterMs };
    return afterMs;
  }

  private find(): Map<string, number> {
    const byDevice = new Map<string, number>();
    for (const { device, policy } of this.deps.channels()) {
      if (policy.offlineAfterMs === null) continue;
      byDevice.set(device.address, Math.max(policy.offlineAfterMs, byDevice.get(device.address) ?? 0));
    }
    return byDevice;
  }
}
