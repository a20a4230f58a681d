/** What every channel was last told and what it was last seen to be: the in-memory picture that screens are drawn from. */
import {
  type Agreement,
  agreement,
  type ChannelEntry,
  type ChannelId,
  type Command,
  type Observed,
  type Snapshot,
} from "@bold-relay/core";
import type { CommandRecord, RequestRecord } from "../store/find-requests.ts";
import { commandRecord } from "./request-book.ts";

export interface Presence {
  readonly up: boolean;
  readonly boot: string | null;
  /** When it became so, as far as we know, ms since 1970. */
  readonly since: number;
}

/** A command of this run with its request, or a record of an earlier one. */
type LastCommand =
  | { readonly command: Command; readonly request: RequestRecord }
  | { readonly command: CommandRecord; readonly request: null };

export class Board {
  readonly snapshot: Snapshot;
  private readonly observed = new Map<ChannelId, Observed>();
  private readonly commanded = new Map<ChannelId, LastCommand>();
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
    const last = this.commanded.get(channel);
    if (!last) return null;
    return last.request ? commandRecord(last.command, last.request) : last.command;
  }

  /** Reads back what was last commanded before the start. */
  setEarlierCommand(record: CommandRecord): void {
    this.commanded.set(record.channelId, { command: record, request: null });
  }

  /** Keeps the newest: evidence about an older command never hides a newer one. */
  setLastCommand(command: Command, request: RequestRecord): void {
    const known = this.commanded.get(command.channel);
    if (!known || command.seq >= known.command.seq) this.commanded.set(command.channel, { command, request });
  }

  agreementOf(channel: ChannelId): Agreement {
    const last = this.commanded.get(channel)?.command ?? null;
    return agreement(last?.to ?? null, this.observedOf(channel)?.value ?? null, last !== null && last.end === null);
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
