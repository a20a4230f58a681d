/**
 * Connections that go on for as long as their caller may look: live feed, wire, exports. Twice a second everybody who has one is
 * looked up again, all in two queries; whoever has lost anything of what they could do is cut off, and may come back for what is
 * left to them. Nobody can take all the room: each member has so much of each kind.
 */
import { RelayError } from "@bold-relay/core";
import type { Log } from "../platform/log.ts";
import { findIdentities } from "../store/identities.ts";
import type { Pool } from "../store/pool.ts";
import { type Admitted, callerOf } from "./caller.ts";
import { rightsOf } from "./still-permitted.ts";

export type StreamKind = "live" | "wire" | "export";

/** How many may be open at once: of all callers together, and of one member. */
const ROOM: Readonly<Record<StreamKind, { readonly all: number; readonly each: number; readonly what: string }>> = {
  live: { all: 200, each: 20, what: "live connections" },
  wire: { all: 20, each: 4, what: "views of the wire" },
  export: { all: 8, each: 2, what: "exports" },
};

const LOOK_EVERY_MS = 500;

interface Stream {
  readonly kind: StreamKind;
  readonly caller: Admitted;
  readonly end: () => void;
}

export class OpenStreams {
  private readonly pool: Pool;
  private readonly log: Log;
  private readonly streams = new Set<Stream>();
  private timer: NodeJS.Timeout | null = null;
  private looking = false;

  constructor(pool: Pool, log: Log) {
    this.pool = pool;
    this.log = log;
  }

  start(): void {
    this.timer = setInterval(() => void this.look(), LOOK_EVERY_MS);
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
  }

  /**
   * @param end cuts the connection; called at most once
   * @returns called when it is over
   * @throws RelayError service-busy, or too-many-streams when the member has enough of them
   */
  open(kind: StreamKind, caller: Admitted, end: () => void): () => void {
    const { all, each, what } = ROOM[kind];
    const open = [...this.streams].filter((one) => one.kind === kind);
    if (open.filter((one) => one.caller.memberId === caller.memberId).length >= each)
      throw new RelayError("too-many-streams", { most: each, what });
    if (open.length >= all) throw new RelayError("service-busy", { why: `Too many ${what}` });
    const stream: Stream = { kind, caller, end };
    this.streams.add(stream);
    return () => void this.streams.delete(stream);
  }

  private async look(): Promise<void> {
    if (this.looking || this.streams.size === 0) return;
    this.looking = true;
    try {
      const streams = [...this.streams];
      const identities = await findIdentities(
        this.pool,
        streams.map(({ caller }) => caller.tokenSha256),
      );
      for (const stream of streams) {
        const { caller } = stream;
        const now = identities.get(caller.tokenSha256.toString("base64"));
        const same = now && rightsOf(callerOf(now, { address: null, agent: undefined })) === rightsOf(caller);
        if (!same && this.streams.delete(stream)) stream.end();
      }
    } catch (error) {
      // While the database is away no right can be taken back either.
      this.log.debug({ err: error }, "open connections could not be looked at");
    } finally {
      this.looking = false;
    }
  }
}
