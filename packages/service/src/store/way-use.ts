/** How often each way of asking was used, day by day. */
import type { Db } from "./pool.ts";
import { storableJson } from "./storable.ts";

/** Uses of one way in one day, of one channel or of all. */
export interface WayUseRow {
  readonly way: string;
  /** 0: requests, whatever they reached. */
  readonly channelId: number;
  /** Its beginning in UTC, ms since 1970. */
  readonly day: number;
  readonly uses: number;
  /** ms since 1970. */
  readonly lastAt: number;
  readonly lastBy: string;
}

export interface FoundUse {
  readonly way: string;
  readonly uses: number;
  /** ms since 1970. */
  readonly lastAt: number;
  readonly lastBy: string;
}

/** Adds what came since the last time. */
export async function addWayUses(db: Db, rows: readonly WayUseRow[]): Promise<void> {
  await db.query(
    `insert into way_use as known (way, channel_id, day, uses, last_at, last_by)
     select way, "channelId", (to_timestamp(day / 1000) at time zone 'utc')::date, uses, to_timestamp("lastAt" / 1000), "lastBy"
     from json_to_recordset($1) as u(way text, "channelId" int, day float8, uses int, "lastAt" float8, "lastBy" text)
     on conflict (way, channel_id, day) do update set uses = known.uses + excluded.uses,
       last_at = greatest(known.last_at, excluded.last_at),
       last_by = case when excluded.last_at >= known.last_at then excluded.last_by else known.last_by end`,
    [storableJson(rows)],
  );
}

const SUMMED = `
  select way, coalesce(sum(uses) filter (where day > (now() at time zone 'utc')::date - $1::int), 0)::int as uses,
    extract(epoch from max(last_at))::float8 * 1000 as "lastAt",
    (array_agg(last_by order by last_at desc))[1] as "lastBy"
  from way_use`;

/** Every way by which requests came. @param days that are counted, up to today; the last use counts however long ago */
export async function findWayUses(db: Db, days: number): Promise<FoundUse[]> {
  const { rows } = await db.query<FoundUse>(`${SUMMED} where channel_id = 0 and way <> '' group by way`, [days]);
  return rows;
}

/** Every way by which a channel got commands. */
export async function findChannelUses(db: Db, channelId: number, days: number): Promise<FoundUse[]> {
  const { rows } = await db.query<FoundUse>(`${SUMMED} where channel_id = $2 group by way`, [days, channelId]);
  return rows;
}

/** Since when uses are counted, ms since 1970. */
export async function findCountedSince(db: Db): Promise<number> {
  const { rows } = await db.query<{ at: number }>(
    "select extract(epoch from last_at)::float8 * 1000 as at from way_use where way = ''",
  );
  return rows[0]?.at ?? Date.now();
}

/** Older ones are not shown. The newest of each way and channel stays: it tells when it was used last. */
export async function forgetOldWayUses(db: Db): Promise<void> {
  await db.query(
    `delete from way_use u where day < now() - interval '91 days' and way <> ''
       and exists (select from way_use newer where newer.way = u.way and newer.channel_id = u.channel_id and newer.day > u.day)`,
  );
}
