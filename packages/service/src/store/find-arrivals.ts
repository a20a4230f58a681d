/** What came in at an inlet, word for word, as far as it was kept. */
import type { Arrival } from "@bold-relay/core";
import type { Db } from "./pool.ts";

export interface ArrivalRecord {
  readonly request: string;
  /** ms since 1970. */
  readonly at: number;
  readonly words: string;
  readonly arrival: Partial<Arrival>;
}

/** Newest first. */
export async function findArrivals(db: Db, inlet: string, most: number): Promise<ArrivalRecord[]> {
  const { rows } = await db.query(
    `select id as request, extract(epoch from asked_at)::float8 * 1000 as at, said->>'words' as words,
       said->'arrival' as arrival
     from request where inlet = $1 and said is not null and said ? 'arrival' order by id desc limit $2`,
    [inlet, most],
  );
  return rows;
}

/** The ids of what an inlet has made of arrivals since an id, oldest first. */
export async function findMadeSince(db: Db, inlet: string, since: string): Promise<string[]> {
  const { rows } = await db.query("select id from request where inlet = $1 and id > $2 order by id limit 100", [
    inlet,
    since,
  ]);
  return rows.map(({ id }) => id);
}
