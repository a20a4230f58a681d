/** What every channel was last told and what it was last seen to be: the in-memory picture that screens are drawn from. */
import type { ChannelEntry, ChannelId, Observed, Snapshot } from "@bold-relay/core";
import type { CommandRecord } from "../store/find-requests.ts";

export interface Presence {
  readonly up: boolean;
  readonly boot: string | null;
  /** When it became so, as far as we know, ms since 1970. */
  readonly since: number;
}

export class Board {
  readonly snapshot: Snapshot;
  private readonly observed = new Map<ChannelId, Observed>();
  private readonly commanded = new Map<ChannelId, CommandRecord>();
  private readonly presences = new Map<string, Presence>();

  constructor(snapshot: Snapshot) {
    this.snapshot = snapshot;
  }

  observedOf(channel: ChannelId): Observed | null {
    return this.observed.get(channel) ?? null;
  }

  setObserved(channel: ChannelId, observed: Observed): void {
    this.observed.set(channel, observed);
  }

  /** The newest command of a channel, open or ended. */
  lastCommandOf(channel: ChannelId): CommandRecord | null {
    return this.commanded.get(channel) ?? null;
  }

  /** Keeps the newest: evidence about an older command never hides a newer one. */
  setLastCommand(record: CommandRecord): void {
    const known = this.commanded.get(record.channelId);
    if (!known || record.seq >= known.seq) this.commanded.set(record.channelId, record);
  }

  presenceOf(device: string): Presence | null {
    return this.presences.get(device) ?? null;
  }

  /** @returns whether anything changed */
  setPresence(device: string, presence: Presence): boolean {
    const known = this.presences.get(device);
    if (known && known.up === presence.up && known.boot === presence.boot) return false;
    this.presences.set(device, presence);
    return true;
  }

  channelsOf(device: string): ChannelEntry[] {
    return this.snapshot.channels.filter((channel) => channel.device.address === device);
  }
}
