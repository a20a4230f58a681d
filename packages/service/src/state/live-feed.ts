/**
 * What is told live. Changes are gathered for a frame and told once: a channel that changed five times in 15 ms is
 * one event with what it is now. The last events are kept, so that whoever comes back soon goes on where it was.
 */
import { randomBytes } from "node:crypto";
import type { LiveEvent } from "@bold-relay/api";
import { type ChannelId, outcomeOf, type RequestId } from "@bold-relay/core";
import type { OpenRequest } from "./open-requests.ts";

const FRAME_MS = 15;
/** So many channels are told in a frame, for describing them holds others up; the rest follows in the next. */
const MOST_IN_A_FRAME = 250;
/** How many events are kept for those who come back. */
const KEPT = 4_000;
/** For how long after the last listener left events are still gathered, ms. */
const LINGER_MS = 60_000;

/** An event, and the sites that it is about; null: it is everybody's. */
export interface AddressedEvent {
  readonly event: LiveEvent;
  readonly sites: readonly string[] | null;
}

export interface Listener {
  /** Only what is about these sites is told; null: everything. */
  readonly sites: readonly string[] | null;
  readonly send: (event: LiveEvent, id: string, sites: readonly string[] | null) => void;
  /** Another instance, which tells its own listeners: what came from one is not told to it. */
  readonly isPeer?: boolean;
  /** Ends the connection. */
  readonly end: () => void;
}

interface Kept extends AddressedEvent {
  readonly number: number;
}

export interface FeedDeps {
  /** The event that tells a channel as it is now. */
  readonly describe: (channel: ChannelId) => AddressedEvent | null;
  readonly siteOf: (channel: ChannelId) => string | null;
}

export class Feed {
  private readonly listeners = new Set<Listener>();
  private readonly channels = new Set<ChannelId>();
  private readonly requests = new Map<RequestId, OpenRequest>();
  private readonly deps: FeedDeps;
  /** Numbers begin anew with every start: ids of another start are told apart by this. */
  private readonly start = randomBytes(4).toString("hex");
  private readonly kept: Kept[] = [];
  private number = 0;
  private lastListenerAt = Number.NEGATIVE_INFINITY;
  /** Told of each channel that changes, whether somebody listens or not. */
  private readonly taps = new Set<(channel: ChannelId) => void>();
  private timer: NodeJS.Timeout | null = null;

  constructor(deps: FeedDeps) {
    this.deps = deps;
  }

  get size(): number {
    return this.listeners.size;
  }

  /** Of the newest event so far. */
  get lastId(): string {
    return `${this.start}-${this.number}`;
  }

  /**
   * Who reads what is now will listen from here on: what changes in between is kept for a minute.
   *
   * @returns the id to go on from
   */
  expectListener(): string {
    // First, for it may find that nothing was kept until now.
    this.isWanted();
    this.lastListenerAt = performance.now();
    return this.lastId;
  }

  subscribe(listener: Listener): () => void {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
      if (!listener.isPeer) this.lastListenerAt = performance.now();
    };
  }

  /** What was told since an event; null when that is too long ago to know. */
  since(id: string, sites: readonly string[] | null): { event: LiveEvent; id: string }[] | null {
    const [start, number] = id.split("-");
    const last = Number(number);
    if (start !== this.start || !Number.isSafeInteger(last) || last > this.number) return null;
    const oldest = this.kept[0]?.number ?? this.number + 1;
    if (last + 1 < oldest) return null;
    return this.kept
      .filter((one) => one.number > last && isFor(one, sites))
      .map((one) => ({ event: one.event, id: `${this.start}-${one.number}` }));
  }

  /** Ends every live connection: whoever listened comes back, to whoever holds the lanes by then. */
  close(): void {
    if (this.timer) clearTimeout(this.timer);
    for (const listener of [...this.listeners]) listener.end();
  }

  /** @returns ends it */
  tap(onChange: (channel: ChannelId) => void): () => void {
    this.taps.add(onChange);
    return () => this.taps.delete(onChange);
  }

  /** Whether somebody listens at another instance. */
  get isLookedAtElsewhere(): boolean {
    for (const { isPeer } of this.listeners) if (isPeer) return true;
    return false;
  }

  /** Whether somebody listens here, or did a moment ago. */
  get isLookedAt(): boolean {
    const isHere = [...this.listeners].some(({ isPeer }) => !isPeer);
    return isHere || performance.now() < this.lastListenerAt + LINGER_MS;
  }

  private get isWatched(): boolean {
    return this.listeners.size > 0 || performance.now() < this.lastListenerAt + LINGER_MS;
  }

  channelChanged(channel: ChannelId): void {
    for (const onChange of this.taps) onChange(channel);
    if (!this.isWanted()) return;
    this.channels.add(channel);
    this.timer ??= setTimeout(() => this.flush(), FRAME_MS);
  }

  requestChanged(request: OpenRequest): void {
    if (!this.isWanted()) return;
    this.requests.set(request.record.id, request);
    this.timer ??= setTimeout(() => this.flush(), FRAME_MS);
  }

  /** @param isOfPeer another instance tells it */
  tell(told: AddressedEvent, isOfPeer = false): void {
    if (!this.isWanted()) return;
    this.number += 1;
    const kept = { ...told, number: this.number };
    this.kept.push(kept);
    if (this.kept.length > KEPT * 1.25) this.kept.splice(0, this.kept.length - KEPT);
    for (const listener of this.listeners)
      if (isFor(kept, listener.sites) && !(isOfPeer && listener.isPeer))
        listener.send(told.event, this.lastId, told.sites);
  }

  /** Somebody listens, or did a moment ago and may come back. Else nothing is numbered either: there is no gap. */
  private isWanted(): boolean {
    if (this.isWatched) return true;
    // What is not kept must not be taken for kept: ids given out before are too old from here on, also where none followed them.
    if (this.lastListenerAt !== Number.NEGATIVE_INFINITY) {
      this.lastListenerAt = Number.NEGATIVE_INFINITY;
      this.kept.length = 0;
      this.number += 1;
    }
    return false;
  }

  private flush(): void {
    this.timer = null;
    let left = MOST_IN_A_FRAME;
    for (const channel of this.channels) {
      if (left === 0) break;
      left -= 1;
      this.channels.delete(channel);
      const told = this.deps.describe(channel);
      if (told) this.tell(told);
    }
    if (this.channels.size > 0) this.timer = setTimeout(() => this.flush(), FRAME_MS);
    for (const [id, { commands }] of this.requests) {
      const outcome = outcomeOf(commands.map(({ end }) => end));
      const sites = [...new Set(commands.flatMap(({ channel }) => this.deps.siteOf(channel) ?? []))];
      this.tell({ event: { name: "request", data: { id, outcome } }, sites });
    }
    this.requests.clear();
  }
}

function isFor({ sites: about }: AddressedEvent, sites: readonly string[] | null): boolean {
  return about === null || sites === null || about.some((site) => sites.includes(site));
}
