/** What a channel was over a longer time: the curve of a reading, or how long it was on each day. */
import type { TrendView } from "@bold-relay/api";
import {
  type ChannelEntry,
  countsNumbers,
  DAY_MS,
  kindOf,
  onTimes,
  readsNumbers,
  smallestIdAt,
} from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Board } from "../state/board.ts";
import { findReadings, findSwitched } from "../store/find-history.ts";
import type { Pool } from "../store/pool.ts";
import { findDate, findDays } from "../store/statistics.ts";

/** How many points a curve has at most: more than a screen has columns would not be seen. */
const MOST_POINTS = 480;

interface TrendDeps {
  readonly pool: Pool;
  readonly clock: Clock;
  readonly board: Board;
  readonly config: { readonly zone: string };
}

/** @param days 1 to 90: a reading over so many times 24 hours; else so many days, with today */
export async function trendView(
  channel: ChannelEntry,
  days: number,
  { pool, clock, board, config }: TrendDeps,
): Promise<TrendView> {
  const zone = board.zoneOf(channel.site.slug) ?? config.zone;
  const now = clock.now();
  const told = {
    channel: channel.address,
    name: `${channel.name}, ${channel.room.name}`,
    kind: channel.kind,
    unit: channel.unit,
    zone,
  };
  if (readsNumbers(kindOf(channel.kind))) {
    const from = now - days * DAY_MS;
    const points = await findReadings(pool, channel.id, smallestIdAt(from), (days * DAY_MS) / MOST_POINTS);
    const readings = points.map(({ at, ...values }) => ({ at: new Date(at).toISOString(), ...values }));
    return { ...told, from: new Date(from).toISOString(), at: new Date(now).toISOString(), readings, days: [] };
  }
  if (countsNumbers(kindOf(channel.kind)))
    return { ...told, from: new Date(now).toISOString(), at: new Date(now).toISOString(), readings: [], days: [] };
  const today = await findDate(pool, zone, now);
  const first = new Date(Date.parse(`${today}T12:00:00Z`) - (days - 1) * DAY_MS).toISOString().slice(0, 10);
  const periods = await findDays(pool, zone, first, today);
  const from = periods[0]?.from ?? now;
  const { before, changes } = await findSwitched(pool, channel.id, smallestIdAt(from));
  const times = onTimes(before, changes, periods, now);
  return {
    ...told,
    from: new Date(from).toISOString(),
    at: new Date(now).toISOString(),
    readings: [],
    days: periods.map(({ day }, index) => ({ day, onMs: Math.round(times[index] ?? 0) })),
  };
}
