/** Follows a stream of each other instance that leads, only while somebody here wants it. */
import type { Peers } from "../peers/peers.ts";
import type { Instance } from "../store/leases.ts";

const LOOK_EVERY_MS = 250;

export interface FollowWhileDeps {
  readonly peers: Peers;
  /** The name of the stream. */
  readonly stream: string;
  readonly isWanted: () => boolean;
  readonly onLine: (line: unknown) => void;
}

export class FollowWhile {
  private readonly deps: FollowWhileDeps;
  /** By address. */
  private readonly following = new Map<string, AbortController>();
  private readonly timer: NodeJS.Timeout;

  constructor(deps: FollowWhileDeps) {
    this.deps = deps;
    this.timer = setInterval(() => this.update(), LOOK_EVERY_MS);
  }

  stop(): void {
    clearInterval(this.timer);
    for (const stop of this.following.values()) stop.abort();
  }

  private update(): void {
    const { peers, isWanted } = this.deps;
    const others = isWanted() ? peers.others() : [];
    for (const [address, stop] of this.following) if (!others.some((one) => one.address === address)) stop.abort();
    for (const peer of others) if (!this.following.has(peer.address)) void this.follow(peer);
  }

  private async follow(peer: Instance): Promise<void> {
    const { peers, stream, onLine } = this.deps;
    const stop = new AbortController();
    this.following.set(peer.address, stop);
    await peers.calls.follow(peer, stream, onLine, stop.signal);
    // Begun anew at the next look, if it is still wanted.
    this.following.delete(peer.address);
  }
}
