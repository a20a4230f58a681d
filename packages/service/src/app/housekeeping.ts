/** What is done once an hour: what need not be known any longer is forgotten, the months to come get their partitions. */
import { DAY_MS } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Config } from "../platform/config/config.ts";
import { limits } from "../platform/config/limits.ts";
import type { Log } from "../platform/log.ts";
import { forgetOldCalls } from "../store/accept-requests.ts";
import { forgetOldWords } from "../store/asked-words.ts";
import { forgetOldInletHours } from "../store/inlet-hours.ts";
import { forgetLog } from "../store/notifications.ts";
import { dropHistory, preparePartitions } from "../store/partitions.ts";
import type { Pool } from "../store/pool.ts";
import { forgetOldWayUses } from "../store/way-use.ts";

/** Begins it. @returns ends it */
export function keepTidy(config: Config, pool: Pool, clock: Clock, log: Log): () => void {
  const timer = setInterval(() => {
    tidy(config, pool, clock, log).catch((error: unknown) =>
      log.warn({ err: error }, "tidying up failed, it will be tried again"),
    );
  }, limits.tidyEveryMs);
  return () => clearInterval(timer);
}

async function tidy({ keepDays }: Config, pool: Pool, clock: Clock, log: Log): Promise<void> {
  await forgetOldCalls(pool);
  await forgetOldWords(pool);
  await forgetOldInletHours(pool);
  await forgetOldWayUses(pool);
  await forgetLog(pool);
  await preparePartitions(pool, clock.now());
  if (keepDays === undefined) return;
  const dropped = await dropHistory(pool, clock.now() - keepDays * DAY_MS);
  if (dropped.length > 0) log.info({ dropped }, "old history is dropped");
}
