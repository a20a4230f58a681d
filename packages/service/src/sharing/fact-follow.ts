/**
 * Knows of channels that other instances look after what those tell: one stream from each. When one ends, its channels are unheard
 * until their next leader tells.
 */

import type { ChannelId } from "@bold-relay/core";
import type { Peers } from "../peers/peers.ts";
import { eachInPieces } from "../platform/in-pieces.ts";
import type { Log } from "../platform/log.ts";
import { shardOfChannel } from "../state/site-shards.ts";
import type { Instance } from "../store/leases.ts";
import type { FactDeps, FactFrame } from "./fact-source.ts";

export interface FactFollowDeps extends FactDeps {
  readonly peers: Peers;
  readonly log: Log;
}

const AGAIN_MS = 250;
/** A channel may be on its way to another instance, or a new one: what is told of it counts once that is known here, within so long, ms. */
const EARLY_MS = 5_000;

type Told = FactFrame["channels"][number];

export class FactFollow {
  private readonly deps: FactFollowDeps;
  /** By address. */
  private readonly following = new Map<string, AbortController>();
  /** The stream that told of each channel last. */
  private readonly toldBy = new Map<ChannelId, object>();
  /** What was told of channels that are still led here, or are not known so far, and when, by `performance.now()`. */
  private readonly early = new Map<ChannelId, { readonly told: Told; readonly at: number }>();
  private readonly timer: NodeJS.Timeout;
  private stopped = false;

  constructor(deps: FactFollowDeps) {
    this.deps = deps;
    this.timer = setInterval(() => this.takeEarly(), AGAIN_MS);
  }

  /** Follows those that lead now, and no others. */
  update(): void {
    if (this.stopped) return;
    const others = this.deps.peers.others();
    for (const [address, stop] of this.following) {
      if (others.some((one) => one.address === address)) continue;
      stop.abort();
      this.following.delete(address);
    }
    for (const peer of others) if (!this.following.has(peer.address)) void this.follow(peer);
  }

  stop(): void {
    this.stopped = true;
    clearInterval(this.timer);
    for (const stop of this.following.values()) stop.abort();
    this.following.clear();
  }

  private async follow(peer: Instance): Promise<void> {
    const stop = new AbortController();
    this.following.set(peer.address, stop);
    const { peers, log } = this.deps;
    while (!stop.signal.aborted) {
      const stream = {};
      const onLine = (line: unknown) => {
        peers.heard(peer);
        this.take(line as FactFrame, stream);
      };
      const why = await peers.calls.follow(peer, "facts", onLine, stop.signal);
      peers.unheard(peer);
      await this.forget(stream);
      if (stop.signal.aborted) return;
      log.warn({ instance: peer.name, why }, "what another instance knows of its channels is not heard");
      await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
    }
  }

  private take({ channels }: FactFrame, stream: object): void {
    for (const told of channels) {
      this.toldBy.set(told.id, stream);
      if (this.isLedElsewhere(told.id)) this.believe(told);
      else this.early.set(told.id, { told, at: performance.now() });
    }
  }

  private takeEarly(): void {
    const oldest = performance.now() - EARLY_MS;
    for (const [id, { told, at }] of this.early) {
      if (this.isLedElsewhere(id)) this.believe(told);
      // It stays here: what its leader before said is old by now.
      else if (at < oldest) this.early.delete(id);
    }
  }

  private isLedElsewhere(channel: ChannelId): boolean {
    const { board, shards } = this.deps;
    return board.snapshot.byId.has(channel) && !shards.leads(shardOfChannel(board.snapshot, channel));
  }

  private believe({ id, facts, dueAt, presence, presences: events }: Told): void {
    const { board, deadlines, feed, presences } = this.deps;
    this.early.delete(id);
    const device = board.snapshot.byId.get(id)?.device.address ?? "";
    board.setFacts(id, facts);
    deadlines.follow(id, dueAt);
    if (presence !== null) board.setPresence(device, presence);
    presences.follow(device, events);
    feed.channelChanged(id);
  }

  /** What a stream has told that has ended. Another one may have told of the same channel since. */
  private forget(stream: object): Promise<void> {
    const { board, deadlines, feed, presences } = this.deps;
    return eachInPieces(this.toldBy, ([id, by]) => {
      if (by !== stream) return;
      this.toldBy.delete(id);
      this.early.delete(id);
      if (!this.isLedElsewhere(id)) return;
      board.unhear(id);
      presences.forget(board.snapshot.byId.get(id)?.device.address ?? "");
      deadlines.follow(id, null);
      feed.channelChanged(id);
    });
  }
}
