/** What the HTTP application is joined from. */
import type { RequestView } from "@bold-relay/api";
import type { Asker, Intent } from "@bold-relay/core";
import type { Clock } from "../clock.ts";
import type { Config } from "../config/config.ts";
import type { Feed } from "../live/feed.ts";
import type { Log } from "../log.ts";
import type { Board } from "../pipeline/board.ts";
import type { Lockouts } from "../pipeline/lockouts.ts";
import type { Status } from "../status.ts";
import type { Pool } from "../store/pool.ts";
import type { Ledger } from "../view/ledger.ts";

export interface HttpParts {
  readonly config: Config;
  readonly clock: Clock;
  readonly log: Log;
  readonly pool: Pool;
  readonly board: Board;
  readonly feed: Feed;
  readonly ledger: Ledger;
  readonly lockouts: Lockouts;
  readonly status: Status;
  /** Accepts an intent and waits up to `waitMs` for its outcome. */
  readonly ask: (intent: Intent, asker: Asker, waitMs: number) => Promise<RequestView>;
}
