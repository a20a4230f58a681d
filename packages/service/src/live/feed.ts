/**
 * What is told live. Changes are gathered for a frame and told once: a channel that changed five
 * times in 15 ms is one event with what it is now.
 */
import type { LiveEvent } from "@bold-relay/api";
import { type ChannelId, outcomeOf, type RequestId } from "@bold-relay/core";
import type { OpenRequest } from "../pipeline/request-book.ts";

const FRAME_MS = 15;

export type Listener = (event: LiveEvent) => void;

export class Feed {
  private readonly listeners = new Set<Listener>();
  private readonly channels = new Set<ChannelId>();
  private readonly requests = new Map<RequestId, OpenRequest>();
  private readonly describe: (channel: ChannelId) => LiveEvent | null;
  private timer: NodeJS.Timeout | null = null;

  /** @param describe the event that tells a channel as it is now */
  constructor(describe: (channel: ChannelId) => LiveEvent | null) {
    this.describe = describe;
  }

  get size(): number {
    return this.listeners.size;
  }

  subscribe(listener: Listener): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  channelChanged(channel: ChannelId): void {
    if (this.listeners.size === 0) return;
    this.channels.add(channel);
    this.timer ??= setTimeout(() => this.flush(), FRAME_MS);
  }

  requestChanged(request: OpenRequest): void {
    if (this.listeners.size === 0) return;
    this.requests.set(request.record.id, request);
    this.timer ??= setTimeout(() => this.flush(), FRAME_MS);
  }

  tell(event: LiveEvent): void {
    for (const listener of this.listeners) listener(event);
  }

  private flush(): void {
    this.timer = null;
    for (const channel of this.channels) {
      const event = this.describe(channel);
      if (event) this.tell(event);
    }
    for (const [id, { commands }] of this.requests) {
      const outcome = outcomeOf([...commands.values()].map(({ end }) => end));
      this.tell({ name: "request", data: { id, outcome } });
    }
    this.channels.clear();
    this.requests.clear();
  }
}
