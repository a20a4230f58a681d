/** What a leader is started with. */

import type { Snapshot } from "@bold-relay/core";
import type { Peers } from "../peers/peers.ts";
import type { Clock } from "../platform/clock.ts";
import type { Config } from "../platform/config/config.ts";
import type { Log } from "../platform/log.ts";
import type { HeldLease } from "../store/leases.ts";
import type { Pool } from "../store/pool.ts";
import type { JournalBackend } from "../store/writers.ts";

export interface LeaderDeps {
  readonly config: Config;
  readonly log: Log;
  readonly clock: Clock;
  readonly pool: Pool;
  /** Gives the picture of all sites away, as the database has it now. */
  readonly takeModel: () => Promise<Snapshot>;
  /** What the writers write to. */
  readonly backend: JournalBackend;
  /** Of the shards that it leads from the start, one at least. */
  readonly heldLeases: readonly HeldLease[];
  /** Looks now who is to lead what, and hands it over. */
  readonly lookNow: () => void;
  /** The instances that lead beside this one. */
  readonly peers: Peers;
  /** Where this instance listens. */
  readonly url: string;
  /** Told of each part once it has started; see `StopStack`. */
  readonly onStarted?: (part: string) => void;
}
