/**
 * Knows of channels that other instances look after what those tell: one stream from each. When one ends, its channels are unheard
 * until their next leader tells.
 */

import type { Peers } from "../peers/peers.ts";
import type { Log } from "../platform/log.ts";
import { shardOfChannel } from "../state/site-shards.ts";
import type { Instance } from "../store/leases.ts";
import type { FactDeps, FactFrame } from "./fact-source.ts";

export interface FactFollowDeps extends FactDeps {
  readonly peers: Peers;
  readonly log: Log;
}

const AGAIN_MS = 250;

export class FactFollow {
  private readonly deps: FactFollowDeps;
  /** By address. */
  private readonly following = new Map<string, AbortController>();
  private stopped = false;

  constructor(deps: FactFollowDeps) {
    this.deps = deps;
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
    for (const stop of this.following.values()) stop.abort();
    this.following.clear();
  }

  private async follow(peer: Instance): Promise<void> {
    const stop = new AbortController();
    this.following.set(peer.address, stop);
    const { peers, log } = this.deps;
    while (!stop.signal.aborted) {
      /** The channels that it has told of. */
      const known = new Set<number>();
      const onLine = (line: unknown) => this.take(line as FactFrame, known);
      const why = await peers.calls.follow(peer, "facts", onLine, stop.signal);
      if (stop.signal.aborted) this.forget(known);
      else {
        log.warn({ instance: peer.name, why }, "what another instance knows of its channels is not heard");
        this.forget(known);
        await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
      }
    }
  }

  private take({ channels }: FactFrame, known: Set<number>): void {
    const { board, deadlines, feed, presences, shards } = this.deps;
    for (const { id, facts, dueAt, presence, presences: events } of channels) {
      const entry = board.snapshot.byId.get(id);
      // It is led here by now: what its leader before said is old.
      if (!entry || shards.leads(shardOfChannel(board.snapshot, id))) continue;
      known.add(id);
      board.setFacts(id, facts);
      deadlines.follow(id, dueAt);
      if (presence !== null) board.setPresence(entry.device.address, presence);
      presences.follow(entry.device.address, events);
      feed.channelChanged(id);
    }
  }

  private forget(known: ReadonlySet<number>): void {
    const { board, deadlines, feed, presences, shards } = this.deps;
    for (const { id, device } of board.snapshot.channels) {
      if (!known.has(id) || shards.leads(shardOfChannel(board.snapshot, id))) continue;
      board.unhear(id);
      presences.forget(device.address);
      deadlines.follow(id, null);
      feed.channelChanged(id);
    }
  }
}
