/** Events of requests and alerts at other instances, for whoever looks at this one: heard only while somebody does. */
import type { ServerResponse } from "node:http";
import type { Peers } from "../peers/peers.ts";
import type { AddressedEvent, Feed } from "../state/live-feed.ts";
import type { Instance } from "../store/leases.ts";

/** What a channel is comes as facts, and how an instance does is its own. */
const TOLD: ReadonlySet<string> = new Set(["request", "alerts"]);
const LOOK_EVERY_MS = 250;
const SAY_EVERY_MS = 1_000;
/** Whoever reads slower has the stream ended, and begins anew, bytes. */
const MOST_WAITING = 4_000_000;

/** Writes until the other side goes. */
export function serveEvents(res: ServerResponse, feed: Feed): void {
  res.writeHead(200, { "content-type": "application/jsonl", "cache-control": "no-store" });
  res.flushHeaders();
  const send = (line: object) => {
    res.write(`${JSON.stringify(line)}\n`);
    if (res.writableLength > MOST_WAITING) res.destroy();
  };
  const end = feed.subscribe({
    sites: null,
    isPeer: true,
    send(event, _id, sites) {
      if (TOLD.has(event.name)) send({ event, sites } satisfies AddressedEvent);
    },
    end: () => res.end(),
  });
  const timer = setInterval(() => res.write("\n"), SAY_EVERY_MS);
  res.once("close", () => {
    clearInterval(timer);
    end();
  });
}

export class EventFollow {
  private readonly feed: Feed;
  private readonly peers: Peers;
  /** By address. */
  private readonly following = new Map<string, AbortController>();
  private readonly timer: NodeJS.Timeout;

  constructor(feed: Feed, peers: Peers) {
    this.feed = feed;
    this.peers = peers;
    this.timer = setInterval(() => this.update(), LOOK_EVERY_MS);
  }

  stop(): void {
    clearInterval(this.timer);
    for (const stop of this.following.values()) stop.abort();
  }

  private update(): void {
    const others = this.feed.isLookedAt ? this.peers.others() : [];
    for (const [address, stop] of this.following) if (!others.some((one) => one.address === address)) stop.abort();
    for (const peer of others) if (!this.following.has(peer.address)) void this.follow(peer);
  }

  private async follow(peer: Instance): Promise<void> {
    const stop = new AbortController();
    this.following.set(peer.address, stop);
    await this.peers.calls.follow(peer, "events", (line) => this.feed.tell(line as AddressedEvent, true), stop.signal);
    // Begun anew at the next look, if it is still wanted.
    this.following.delete(peer.address);
  }
}
