/** What a leader is started with. */
import type { Clock } from "../clock.ts";
import type { Config } from "../config/config.ts";
import type { Tenure } from "../holder/lease.ts";
import type { Log } from "../log.ts";
import type { Pool } from "../store/pool.ts";
import type { Keeping } from "../store/writers.ts";

export interface LeaderDeps {
  readonly config: Config;
  readonly log: Log;
  readonly clock: Clock;
  readonly pool: Pool;
  /** What the writers write to. */
  readonly keeping: (epoch: number) => Keeping;
  readonly tenure: Tenure;
  /** Where this instance listens. */
  readonly url: string;
  /** Told of each part once it has started; see `StopStack`. */
  readonly onStarted?: (part: string) => void;
}
