/** What came in at inlets, hour by hour. */
import type { Db } from "./pool.ts";
import { storableJson } from "./storable.ts";

/** What becomes of an arrival: exactly one of these. */
export const ARRIVAL_ENDS = ["asked", "answered", "notUnderstood", "refused", "unknownSenders"] as const;
export type ArrivalEnd = (typeof ARRIVAL_ENDS)[number];

export interface InletHour extends Readonly<Record<ArrivalEnd | "arrivals", number>> {
  readonly inlet: string;
  /** Its beginning, ms since 1970. */
  readonly hour: number;
  /** The last arrival in it, ms since 1970. */
  readonly lastAt: number;
}

/** @param since ms since 1970 */
export async function findInletHours(db: Db, since: number): Promise<InletHour[]> {
  const { rows } = await db.query<InletHour>(
    `select inlet, extract(epoch from hour)::float8 * 1000 as hour, arrivals, asked, answered, not_understood as "notUnderstood",
       refused, unknown_senders as "unknownSenders", extract(epoch from last_at)::float8 * 1000 as "lastAt"
     from inlet_hour where hour >= to_timestamp($1::float8 / 1000)`,
    [since],
  );
  return rows;
}

/** When each inlet last had an arrival, however long ago, ms since 1970. */
export async function findLastArrivals(db: Db): Promise<Map<string, number>> {
  const { rows } = await db.query<{ inlet: string; at: number }>(
    "select inlet, extract(epoch from max(last_at))::float8 * 1000 as at from inlet_hour group by inlet",
  );
  return new Map(rows.map(({ inlet, at }) => [inlet, at]));
}

/** Adds what came since the last time. */
export async function addInletHours(db: Db, hours: readonly InletHour[]): Promise<void> {
  await db.query(
    `insert into inlet_hour as known (inlet, hour, arrivals, asked, answered, not_understood, refused, unknown_senders, last_at)
     select inlet, to_timestamp(hour / 1000), arrivals, asked, answered, "notUnderstood", refused, "unknownSenders",
       to_timestamp("lastAt" / 1000)
     from json_to_recordset($1) as h(inlet text, hour float8, arrivals int, asked int, answered int, "notUnderstood" int,
       refused int, "unknownSenders" int, "lastAt" float8)
     on conflict (inlet, hour) do update set arrivals = known.arrivals + excluded.arrivals, asked = known.asked + excluded.asked,
       answered = known.answered + excluded.answered, not_understood = known.not_understood + excluded.not_understood,
       refused = known.refused + excluded.refused, unknown_senders = known.unknown_senders + excluded.unknown_senders,
       last_at = greatest(known.last_at, excluded.last_at)`,
    [storableJson(hours)],
  );
}

/** Older ones are not shown. The newest of each inlet stays: it tells when something came last. */
export async function forgetOldInletHours(db: Db): Promise<void> {
  await db.query(
    `delete from inlet_hour h where hour < now() - interval '8 days'
       and exists (select from inlet_hour newer where newer.inlet = h.inlet and newer.hour > h.hour)`,
  );
}
