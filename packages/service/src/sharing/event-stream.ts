/** Events of requests and alerts, and what is written to the broker, for whoever looks at another instance. */
import type { ServerResponse } from "node:http";
import type { Wire } from "../broker/wire.ts";
import type { AddressedEvent, Feed } from "../state/live-feed.ts";
import { serveLines } from "./line-stream.ts";

/** What a channel is comes as facts, and how an instance does is its own. */
const TOLD: ReadonlySet<string> = new Set(["request", "alerts"]);

export function serveEvents(res: ServerResponse, feed: Feed): void {
  serveLines(res, (send, end) =>
    feed.subscribe({
      sites: null,
      isPeer: true,
      send(event, _id, sites) {
        if (TOLD.has(event.name)) send({ event, sites } satisfies AddressedEvent);
      },
      end,
    }),
  );
}

/** A line of what an instance writes to the broker. */
export interface WrittenLine {
  readonly topic: string;
  /** The payload in base64 (RFC 4648, 4). */
  readonly bytes: string;
}

export function serveWrites(res: ServerResponse, wire: Pick<Wire, "tap">): void {
  serveLines(res, (send) =>
    wire.tap((topic, payload) => send({ topic, bytes: Buffer.from(payload).toString("base64") } satisfies WrittenLine)),
  );
}
