/** What one channel was over a longer time, thinned by the database so that a month is not carried over row by row. */
import { type ChannelId, parseValue, type ReadingPoint, type Switched, type Value } from "@bold-relay/core";
import type { Db } from "./pool.ts";

/** Of changes at most this many, the newest. */
const MOST_CHANGES = 20_000;

/**
 * What a sensor read, a point for each stretch of time in which it read something, oldest first.
 *
 * @param since the smallest UUIDv7 of the moment from which on it is looked for
 * @param stretchMs how long each stretch is
 */
export async function findReadings(
  db: Db,
  channel: ChannelId,
  since: string,
  stretchMs: number,
): Promise<ReadingPoint[]> {
  const { rows } = await db.query<ReadingPoint>(
    `select extract(epoch from max(at))::float8 * 1000 as at, min(value) as low, max(value) as high,
       (array_agg(value order by id desc))[1] as last
     from (
       select id, at, to_value::float8 as value from state_change
       where channel_id = $1 and id >= $2 and to_value ~ '^-?[0-9]+([.][0-9]+)?([eE][-+]?[0-9]+)?$'
     ) reading
     group by floor(extract(epoch from at)::float8 * 1000 / $3::float8) order by 1`,
    [channel, since, stretchMs],
  );
  return rows;
}

/** What a channel changed to, oldest first; and what it was before that. */
export async function findSwitched(
  db: Db,
  channel: ChannelId,
  since: string,
): Promise<{ before: Value | null; changes: Switched[] }> {
  const { rows } = await db.query<{ at: number; from_value: string | null; to_value: string }>(
    `select extract(epoch from at)::float8 * 1000 as at, from_value, to_value
     from state_change where channel_id = $1 and id >= $2 order by id desc limit $3`,
    [channel, since, MOST_CHANGES],
  );
  const changes = rows.reverse().map(({ at, to_value }) => ({ at, to: parseValue(to_value) }));
  const [first] = rows;
  if (first) return { before: first.from_value === null ? null : parseValue(first.from_value), changes };
  const earlier = await db.query<{ to_value: string }>(
    "select to_value from state_change where channel_id = $1 and id < $2 order by id desc limit 1",
    [channel, since],
  );
  const last = earlier.rows[0]?.to_value;
  return { before: last === undefined ? null : parseValue(last), changes };
}
