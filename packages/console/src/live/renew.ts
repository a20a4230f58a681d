/** Reads again what an event has made old. */
import type { QueryClient, QueryKey } from "@tanstack/react-query";

/**
 * As `invalidateQueries`, and also for what is being read for the first time. The library lets a first reading go on and takes
 * its answer, although that may have been made before the event: it is read once more after it.
 */
export async function renew(queries: QueryClient, queryKey: QueryKey): Promise<void> {
  const first = queries
    .getQueryCache()
    .findAll({ queryKey })
    .filter(({ state }) => state.data === undefined && state.fetchStatus === "fetching");
  await queries.invalidateQueries({ queryKey });
  await Promise.all(first.map((query) => queries.invalidateQueries({ queryKey: query.queryKey, exact: true })));
}
