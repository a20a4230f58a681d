/** DeliveryStatistics of how well it runs: spans that are over are counted once, in the background; whoever looks gets those, and the rest as it is now. */
import type { StatisticsQuery, StatisticsView } from "@bold-relay/api";
import {
  DAY_MS,
  HOUR_MS,
  type Period,
  RelayError,
  type Snapshot,
  STATISTIC_GROUPS,
  type StatisticCount,
  type StatisticGroup,
  splitAt,
  statisticsOf,
  uncovered,
} from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Log } from "../platform/log.ts";
import type { RecentStatistics } from "../state/recent-statistics.ts";
import type { Pool } from "../store/pool.ts";
import {
  type DayPeriod,
  findDate,
  findDays,
  findFirstAsk,
  findSpans,
  findStatistics,
  hasOpen,
  keepSpan,
  type StatisticRow,
} from "../store/statistics.ts";

export interface StatisticsDeps {
  readonly clock: Clock;
  readonly log: Log;
  readonly pool: Pool;
  readonly board: { readonly snapshot: Snapshot };
  readonly recent: Pick<RecentStatistics, "since" | "within">;
  /** IANA; days begin and end there. */
  readonly zone: string;
}

/** Every so often what is over is counted. */
const COUNT_EVERY_MS = 5 * 60_000;
/** A request may reach the journal later than it was asked, while that is away: what is over for this long is complete. */
const SETTLED_MS = 15 * 60_000;
/** What is further back is counted in the background only: reading it would keep a person waiting. */
const READ_BACK_MS = DAY_MS;
const DEFAULT_DAYS = 7;
const MOST_DAYS = 400;

export class Statistics {
  private readonly deps: StatisticsDeps;
  private timer: NodeJS.Timeout | null = null;
  private counting: Promise<void> | null = null;
  private stopped = false;

  constructor(deps: StatisticsDeps) {
    this.deps = deps;
  }

  /** Begins to count in the background; may be stopped and started again. */
  start(): void {
    this.stopped = false;
    this.timer = setInterval(() => void this.count(), COUNT_EVERY_MS);
    void this.count();
  }

  async stop(): Promise<void> {
    this.stopped = true;
    if (this.timer) clearInterval(this.timer);
    await this.counting;
  }

  /** Counts what is over and not counted so far, the newest first; one round at a time. */
  count(): Promise<void> {
    this.counting ??= this.countAll()
      .catch((error: unknown) =>
        this.deps.log.warn({ err: error }, "statistics could not be counted, it will be tried again"),
      )
      .finally(() => {
        this.counting = null;
      });
    return this.counting;
  }

  /**
   * @param sites whose statistics they are; null: all, with what belongs to none
   * @param inletNames names of inlets by their identifiers
   * @throws RelayError bad-request
   */
  async view(
    query: StatisticsQuery,
    sites: readonly string[] | null,
    inletNames: ReadonlyMap<string, string>,
  ): Promise<StatisticsView> {
    const { clock, pool, zone } = this.deps;
    const now = Math.floor(clock.now());
    const days = await this.daysOf(query, now);
    const from = days[0]?.from ?? now;
    const to = Math.min(days.at(-1)?.to ?? now, now + 1);
    const period = { from, to: Math.max(from, to) };
    const gaps = uncovered(period, await findSpans(pool, period));
    const { before, after } = splitAt(gaps, now - READ_BACK_MS);
    const { before: stored, after: recent } = splitAt(after, this.deps.recent.since);
    const rows = await findStatistics(pool, { ...period, gaps: stored, zone, sites });
    rows.push(...recent.flatMap((gap) => this.recentRows(gap, days, sites)));
    return {
      zone,
      from: days[0]?.day ?? "",
      to: days.at(-1)?.day ?? "",
      uncountedDays: await this.uncountedDays(days, before),
      ...this.grouped(rows, days, inletNames),
    };
  }

  /** What is counted as it goes, in all groups. */
  private recentRows(gap: Period, days: readonly DayPeriod[], sites: readonly string[] | null): StatisticRow[] {
    const { board, recent } = this.deps;
    return recent.within(gap).flatMap(({ minute, channel, site, inlet, what, grade, count }) => {
      const entry = channel === null ? null : board.snapshot.byId.get(channel);
      // Of a channel that is deleted nothing is told, here or in the database.
      if (entry === undefined) return [];
      const slug = entry?.site.slug ?? site;
      if (sites !== null && (slug === null || !sites.includes(slug))) return [];
      const day = days.find(({ from, to }) => minute >= from && minute < to)?.day;
      const keys = { all: "", day, site: slug, device: entry?.device.address, inlet } as const;
      return STATISTIC_GROUPS.flatMap((by) => {
        const key = keys[by];
        return key === undefined || key === null ? [] : { by, key, what, grade, count };
      });
    });
  }

  private async daysOf({ days = DEFAULT_DAYS, from, to }: StatisticsQuery, now: number): Promise<DayPeriod[]> {
    const { pool, zone } = this.deps;
    const last = to ?? (await findDate(pool, zone, now));
    const first = from ?? (await findDate(pool, zone, Date.parse(`${last}T12:00:00Z`) - (days - 1) * DAY_MS));
    if (first > last) throw new RelayError("bad-request", { why: `“from” (${first}) comes after “to” (${last})` });
    if (Date.parse(last) - Date.parse(first) >= MOST_DAYS * DAY_MS)
      throw new RelayError("bad-request", { why: `From ${first} to ${last} are more than ${MOST_DAYS} days` });
    return findDays(pool, zone, first, last);
  }

  /** Of days before the first request there is nothing to count. */
  private async uncountedDays(days: readonly DayPeriod[], gaps: readonly Period[]): Promise<number> {
    if (gaps.length === 0) return 0;
    const first = (await findFirstAsk(this.deps.pool)) ?? Number.POSITIVE_INFINITY;
    return days.filter((day) => day.to > first && gaps.some((gap) => meets(gap, day))).length;
  }

  private grouped(rows: readonly StatisticRow[], days: readonly DayPeriod[], inlet: ReadonlyMap<string, string>) {
    const snapshot = this.deps.board.snapshot;
    const counts = new Map<StatisticGroup, Map<string, StatisticCount[]>>();
    for (const row of rows) {
      const group = counts.get(row.by) ?? new Map<string, StatisticCount[]>();
      counts.set(row.by, group);
      const known = group.get(row.key);
      if (known) known.push(row);
      else group.set(row.key, [row]);
    }
    const names = {
      site: new Map(snapshot.channels.map(({ site }) => [site.slug, site.name])),
      device: new Map(snapshot.channels.map(({ device }) => [device.address, device.name])),
      inlet,
    };
    const groups = (by: "site" | "device" | "inlet") =>
      [...(counts.get(by) ?? [])]
        .map(([key, of]) => ({ key, name: names[by].get(key) ?? key, ...statisticsOf(of) }))
        .sort((one, other) => other.commands - one.commands || (one.key < other.key ? -1 : 1));
    return {
      all: statisticsOf(counts.get("all")?.get("") ?? []),
      days: days.map(({ day }) => ({ key: day, name: day, ...statisticsOf(counts.get("day")?.get(day) ?? []) })),
      sites: groups("site"),
      devices: groups("device"),
      inlets: groups("inlet"),
    };
  }

  private async countAll(): Promise<void> {
    const { clock, pool, zone } = this.deps;
    const first = await findFirstAsk(pool);
    if (first === null) return;
    const over = clock.now() - SETTLED_MS;
    const days = await findDays(pool, zone, await findDate(pool, zone, first), await findDate(pool, zone, over));
    const spans = await findSpans(pool, { from: days[0]?.from ?? over, to: over });
    for (const day of days.reverse()) {
      if (this.stopped) return;
      await this.countDay(
        day,
        over,
        spans.filter((span) => meets(span, day)),
      );
    }
  }

  /** By its hours, of which none is too much for one statement; when it is over and they are all there, they become one. */
  private async countDay(day: DayPeriod, over: number, spans: readonly Period[]): Promise<void> {
    if (spans[0]?.from === day.from && spans[0].to === day.to) return;
    for (let from = day.from; from < day.to && !this.stopped; from += HOUR_MS) {
      // Where clocks are put forward by half an hour, a day's last hour is half a one.
      const hour = { from, to: Math.min(from + HOUR_MS, day.to) };
      if (hour.to > over) return;
      if (!spans.some((span) => meets(span, hour))) await this.keep(hour, [hour]);
    }
    if (day.to <= over && !this.stopped) await this.keep(day, []);
  }

  private async keep(period: Period, gaps: readonly Period[]): Promise<boolean> {
    return !(await hasOpen(this.deps.pool, period)) && keepSpan(this.deps.pool, period, gaps);
  }
}

function meets(one: Period, other: Period): boolean {
  return one.from < other.to && one.to > other.from;
}
