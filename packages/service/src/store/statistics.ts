/** The verbs *count* and *keep* of statistics: what became of what was asked, by device and inlet, in spans that are over. */
import type { Period, StatisticCount, StatisticGroup } from "@bold-relay/core";
import { type Db, inTransaction, type Pool } from "./pool.ts";
import type { Placeholder } from "./row-source.ts";
import { storableJson } from "./storable.ts";

/** Of a time zone; ms since 1970. */
export interface DayPeriod extends Period {
  /** 2026-11-26 */
  readonly day: string;
}

/** The days of a zone between two of its dates, both included, oldest first. */
export async function findDays(db: Db, zone: string, first: string, last: string): Promise<DayPeriod[]> {
  const { rows } = await db.query<DayPeriod>(
    `select to_char(day, 'YYYY-MM-DD') as day, ${msOf("day at time zone $1")} as "from",
       ${msOf("(day + interval '1 day') at time zone $1")} as "to"
     from generate_series($2::date::timestamp, $3::date::timestamp, interval '1 day') as day`,
    [zone, first, last],
  );
  return rows;
}

/** The date that it is in a zone at a moment. */
export async function findDate(db: Db, zone: string, at: number): Promise<string> {
  const { rows } = await db.query<{ day: string }>(
    "select to_char(to_timestamp($2::float8 / 1000) at time zone $1, 'YYYY-MM-DD') as day",
    [zone, at],
  );
  return rows[0]?.day ?? "";
}

/** When the oldest request that is kept was asked, ms since 1970; null: there is none. */
export async function findFirstAsk(db: Db): Promise<number | null> {
  const { rows } = await db.query<{ at: number }>(`select ${msOf("asked_at")} as at from request order by id limit 1`);
  return rows[0]?.at ?? null;
}

/** The spans that are counted and lie in a period, or partly in it, oldest first. */
export async function findSpans(db: Db, { from, to }: Period): Promise<Period[]> {
  const { rows } = await db.query<Period>(
    `select ${msOf("from_at")} as "from", ${msOf("to_at")} as "to" from statistic_span
     where to_at > ${momentOf("$1")} and from_at < ${momentOf("$2")} order by from_at`,
    [from, to],
  );
  return rows;
}

/** Whether something that was asked then is open still. */
export async function hasOpen(db: Db, { from, to }: Period): Promise<boolean> {
  const { rowCount } = await db.query(
    `select from open_command where request_id >= uuid_at(${momentOf("$1")}) and request_id < uuid_at(${momentOf("$2")}) limit 1`,
    [from, to],
  );
  return rowCount !== 0;
}

/**
 * Every figure of a period as rows (at, device_id, site, inlet, what, grade, count): kept ones, and those of its gaps counted anew. Each gap
 * has its own bounds in the text: joined with a list of gaps the planner would read the whole journal for an hour of it.
 */
function factsOf({ from, to }: Period, gaps: readonly Period[], value: Placeholder): string {
  const kept = `select from_at as at, device_id, site, inlet, what, grade, count from statistic
    where from_at >= ${momentOf(value(from))} and from_at < ${momentOf(value(to))}`;
  return [kept, ...gaps.map((gap) => factsInGap(gap, value))].join("\nunion all\n");
}

/**
 * What belongs to a gap is told by the time in the request's id; a clock that was set back between the two must not move it out of there.
 * Only commands are looked for by it, and each one's request by its key, one by one (`offset 0`): the planner knows little of ranges of
 * ids. Left to itself it compares all of one side with all of the other, or reads every request that there is for an hour of them.
 */
function factsInGap(gap: Period, value: Placeholder): string {
  const [from, to] = [momentOf(value(gap.from)), momentOf(value(gap.to))];
  const within = (id: string) => `${id} >= uuid_at(${from}) and ${id} < uuid_at(${to})`;
  const at = (moment: string) => `least(greatest(${moment}, ${from}), ${to} - interval '1 ms')`;
  return `
  select told.at, told.device_id, '', told.inlet, fact.what, fact.grade, 1
  from (
    select ${at("c.asked_at")} as at, ch.device_id, r.inlet, c.ended, c.stage, ${msOf("c.asked_at")} as asked, hop.*
    from command c cross join lateral (select inlet from request where id = c.request_id offset 0) r
      join channel ch on ch.id = c.channel_id
      cross join lateral (
        select min(at) filter (where kind = 'published') as published, min(at) filter (where kind = 'acknowledged') as acknowledged,
          min(at) filter (where kind = 'confirmed') as confirmed, coalesce(bool_or(measured), false) as measured
        from jsonb_to_recordset(c.hops) as h (kind text, at float8, measured boolean)
      ) hop
    where ${within("c.request_id")}
  ) told cross join lateral (
    select ended as what, case when measured then 4
        else array_position(array['accepted', 'published', 'acknowledged', 'confirmed'], stage) - 1 end as grade
    union all
    select timed.hop, least(round(8 * ln(greatest(timed.ms, 0.125)) / ln(2::float8)), 300)::int
    from (values ('published', published - asked), ('acknowledged', acknowledged - coalesce(published, asked)),
      ('confirmed', confirmed - coalesce(acknowledged, published, asked)),
      ('whole', case when ended = 'delivered' then greatest(published, acknowledged, confirmed) - asked end)) as timed (hop, ms)
    where timed.ms is not null
  ) fact
  union all
  select ${at("r.asked_at")}, 0, coalesce(r.site, ''), r.inlet, r.outcome, 0, 1
  from request r where ${within("r.id")} and r.outcome is not null`;
}

/** Values of a statement, and their placeholders. */
function valuesOf(): { values: unknown[]; value: Placeholder } {
  const values: unknown[] = [];
  return { values, value: (one) => `$${values.push(one)}` };
}

/**
 * Counts a period for good, in place of what was counted of its parts.
 *
 * @param gaps what of it is counted now, from the journal; the rest must be counted already
 * @returns false: it is not, or something of it is open: it is counted another time
 */
export async function keepSpan(pool: Pool, period: Period, gaps: readonly Period[]): Promise<boolean> {
  return inTransaction(pool, async (db) => {
    // One at a time, also where an instance believes that it still holds the lanes.
    await db.query("lock table statistic_span in share row exclusive mode");
    const { from, to } = period;
    const spans = await findSpans(db, period);
    // Where the zone was another one before, spans may lie across the borders of its days: they stay as they are.
    const isInside = spans.every((span) => span.from >= from && span.to <= to);
    if (!isInside || sumOf(spans) + sumOf(gaps) !== to - from || (await hasOpen(db, period))) return false;
    const { values, value } = valuesOf();
    const { rows } = await db.query(
      `select device_id, site, inlet, what, grade, sum(count)::int as count from (${factsOf(period, gaps, value)}) fact
       group by device_id, site, inlet, what, grade`,
      values,
    );
    for (const table of ["statistic", "statistic_span"])
      await db.query(`delete from ${table} where from_at >= ${momentOf("$1")} and from_at < ${momentOf("$2")}`, [
        from,
        to,
      ]);
    await db.query(`insert into statistic_span (from_at, to_at) values (${momentOf("$1")}, ${momentOf("$2")})`, [
      from,
      to,
    ]);
    await db.query(
      `insert into statistic (from_at, device_id, site, inlet, what, grade, count)
       select ${momentOf("$1")}, device_id, site, inlet, what, grade, count
       from json_to_recordset($2) as f (device_id int, site text, inlet text, what text, grade smallint, count int)`,
      [from, storableJson(rows)],
    );
    return true;
  });
}

export interface StatisticRow extends StatisticCount {
  readonly by: StatisticGroup;
  /** The day, the site's slug, the device's address or the inlet's slug; "" of all. */
  readonly key: string;
}

export interface StatisticQuery extends Period {
  /** What is not counted so far, and read from the journal. */
  readonly gaps: readonly Period[];
  readonly zone: string;
  /** Slugs; null: all of them, and what belongs to none. */
  readonly sites: readonly string[] | null;
}

/** The statistics of a period: of all together, and by day, site, device and inlet. */
export async function findStatistics(db: Db, query: StatisticQuery): Promise<StatisticRow[]> {
  const { gaps, zone, sites } = query;
  const { values, value } = valuesOf();
  const within = value(sites);
  const { rows } = await db.query<StatisticRow>(
    `with placed as (
       select to_char(fact.at at time zone ${value(zone)}, 'YYYY-MM-DD') as day, coalesce(s.slug, nullif(fact.site, '')) as site, s.slug || '/' || d.slug as device, fact.inlet,
         fact.what, fact.grade, fact.count
       from (${factsOf(query, gaps, value)}) fact left join device d on d.id = fact.device_id left join site s on s.id = d.site_id
       where ${within}::text[] is null or coalesce(s.slug, fact.site) = any(${within})
     )
     select case when grouping(day) = 0 then 'day' when grouping(site) = 0 then 'site' when grouping(device) = 0 then 'device'
         when grouping(inlet) = 0 then 'inlet' else 'all' end as by,
       coalesce(day, site, device, inlet, '') as key, what, grade, sum(count)::float8 as count
     from placed group by grouping sets ((what, grade), (day, what, grade), (site, what, grade), (device, what, grade), (inlet, what, grade))`,
    values,
  );
  // What belongs to no device has no site either.
  return rows.filter(({ by, key }) => by === "all" || key !== "");
}

function sumOf(periods: readonly Period[]): number {
  return periods.reduce((sum, { from, to }) => sum + to - from, 0);
}

function msOf(moment: string): string {
  return `extract(epoch from ${moment})::float8 * 1000`;
}

function momentOf(ms: string): string {
  return `to_timestamp(${ms}::float8 / 1000)`;
}
