/** DeliveryStatistics of how well it runs: whatever is counted already, they are what reading every command would tell. */
import type { GroupStatistics, StatisticsQuery, StatisticsView } from "@bold-relay/api";
import {
  bucketOf,
  buildSnapshot,
  ENDS,
  type End,
  type EndedCommand,
  HOUR_MS,
  MINUTE_MS,
  type Snapshot,
  STAGES,
  type StatisticCount,
  smallestIdAt,
  statisticsOf,
} from "@bold-relay/core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createLog } from "../src/index.ts";
import { Statistics } from "../src/reporting/statistics.ts";
import { RecentStatistics } from "../src/state/recent-statistics.ts";
import { findChannels, findSites } from "../src/store/model.ts";
import { createWorld, INLET, type World } from "./support/world.ts";

/** Its hours begin at a quarter to ours. */
const ZONE = "Asia/Kathmandu";
/** There it is 11:15. */
const NOW = Date.parse("2026-11-20T05:30:00Z");
const DAYS = ["2026-11-16", "2026-11-17", "2026-11-18", "2026-11-19", "2026-11-20"];
const LAST_DAYS: StatisticsQuery = { from: "2026-11-16", to: "2026-11-20" };

/** What happened, as it would be told by somebody who has seen all of it. */
interface Seen {
  readonly day: string;
  readonly inlet: string;
  readonly device: string | null;
  readonly site: string | null;
  readonly counts: readonly StatisticCount[];
}

let world: World;
let book: Statistics;
let snapshot: Snapshot;
/** Of a service that runs for two hours. */
let recent: RecentStatistics;
const clock = { now: () => NOW, monotonic: () => NOW };
const seen: Seen[] = [];
/** Is open until a test ends it: asked on the 17th. */
let open: { request: string; command: string };

beforeAll(async () => {
  world = await createWorld({ environment: { BOLD_RELAY_ZONE: ZONE } });
  await world.service.stop();
  snapshot = buildSnapshot(await findChannels(world.pool), await findSites(world.pool));
  book = bookIn(ZONE);
  recent = startedAt(NOW - 2 * HOUR_MS);
  for (let turn = 0; turn < 400; turn += 1) await happen(turn, NOW - turn * 17 * MINUTE_MS);
  await happen(400, NOW - 1);
  open = await leaveOpen(Date.parse("2026-11-17T08:20:00Z"));
});
afterAll(() => world.stop());

/** By the last digit of the turn. */
const REFUSALS: Readonly<Record<number, "refused" | "not-understood">> = { 4: "refused", 7: "not-understood" };
const CHANNELS = ["wren/porch", "wren/hall", "finch/porch", "dunlin/porch"];

async function happen(turn: number, at: number): Promise<void> {
  const inlet = turn % 3 === 0 ? INLET : "board";
  const day = dayOf(at);
  const request = smallestIdAt(at).slice(0, 24) + String(turn).padStart(12, "0");
  const site = [world.site, null, "taken-down"][turn % 4] ?? null;
  const refused = REFUSALS[turn % 10] ?? null;
  await world.pool.query(
    `insert into request (id, asked_at, inlet, asker, target, action, outcome, site)
     values ($1, to_timestamp($2 / 1000.0), $3, 'Ana', 'x', 'on', $4, $5)`,
    [request, at, inlet, refused, refused && site],
  );
  if (refused) {
    recent.refused(request, inlet, site, refused);
    seen.push({ day, inlet, device: null, site, counts: [{ what: refused, grade: 0, count: 1 }] });
    return;
  }
  for (const channel of CHANNELS.slice(0, 1 + (turn % 4))) {
    const end: End = turn % 5 < 3 ? "delivered" : (ENDS[turn % 6] ?? "failed");
    const grade = end === "replaced" ? 0 : 1 + (turn % 3);
    const hops = STAGES.slice(1, 1 + grade).map((kind, index) => ({
      kind,
      at: at + 3 ** (index + 1) * (1 + (turn % 9)),
    }));
    noteEnded(channel, request, inlet, { end, stage: STAGES[grade] ?? "accepted", askedAt: at, hops });
    await addEnded({ request, at, channel, end, grade, hops: [{ kind: "accepted", at }, ...hops] });
    const steps = hops.map((hop, index) => ({
      what: hop.kind as "published" | "acknowledged" | "confirmed",
      grade: bucketOf(hop.at - (hops[index - 1]?.at ?? at)),
      count: 1,
    }));
    const whole =
      end === "delivered" ? [{ what: "whole" as const, grade: bucketOf((hops.at(-1)?.at ?? at) - at), count: 1 }] : [];
    const device = `${world.site}/${channel.split("/")[0]}`;
    seen.push({ day, inlet, device, site: world.site, counts: [{ what: end, grade, count: 1 }, ...steps, ...whole] });
  }
}

function noteEnded(channel: string, requestId: string, inlet: string, ended: EndedCommand): void {
  const entry = snapshot.channels.find(({ device, slug }) => `${device.slug}/${slug}` === channel);
  if (entry) recent.ended({ ...ended, requestId, channel: entry.id }, inlet);
}

async function addEnded({
  request,
  at,
  channel,
  end,
  grade,
  hops,
}: {
  request: string;
  at: number;
  channel: string;
  end: End;
  grade: number;
  hops: object[];
}) {
  await world.pool.query(
    `insert into command (id, request_id, channel_id, seq, to_value, target_stage, stage, ended, attempts, asked_at, hops)
     select gen_random_uuid(), $1, ch.id, 1, 'on', 'confirmed', $2, $3, 1, to_timestamp($4 / 1000.0), $5
     from channel ch join device d on d.id = ch.device_id where d.slug || '/' || ch.slug = $6`,
    [request, STAGES[grade], end, at, JSON.stringify(hops), channel],
  );
}

async function leaveOpen(at: number) {
  const request = smallestIdAt(at);
  await world.pool.query(
    `insert into request (id, asked_at, inlet, asker, target, action) values ($1, to_timestamp($2 / 1000.0), 'board', 'Ana', 'x', 'stop')`,
    [request, at],
  );
  const { rows } = await world.pool.query(
    `insert into open_command (id, request_id, channel_id, to_value, asked_at, urgent)
     select gen_random_uuid(), $1, id, 'off', to_timestamp($2 / 1000.0), true from channel limit 1 returning id`,
    [request, at],
  );
  return { request, command: rows[0].id as string };
}

function dayOf(at: number): string {
  return new Intl.DateTimeFormat("sv-SE", { timeZone: ZONE, dateStyle: "short" }).format(at);
}

/** Told from what was seen, without any of the code that is tested but for the sums. */
function honest(fits: (one: Seen) => boolean) {
  return statisticsOf(seen.filter(fits).flatMap(({ counts }) => counts));
}

const NAMES = new Map([[INLET, "Hall tablet"]]);

/** @param known what is counted as it goes; left out: nothing, for the service has just started */
function bookIn(zone: string, known = startedAt(NOW)): Statistics {
  const board = { snapshot };
  return new Statistics({
    clock: clock as never,
    log: createLog("silent"),
    pool: world.pool,
    board,
    recent: known,
    zone,
  });
}

function startedAt(at: number): RecentStatistics {
  let now = at;
  const known = new RecentStatistics({ now: () => now, monotonic: () => now } as never);
  now = NOW;
  return known;
}

function plain({ key: _, name: __, ...statistics }: GroupStatistics) {
  return statistics;
}

function expectHonest(
  view: StatisticsView,
  days: readonly string[],
  within: (one: Seen) => boolean = () => true,
): void {
  const told = (one: Seen) => days.includes(one.day) && within(one);
  expect(view.all).toEqual(honest(told));
  for (const day of view.days)
    expect([day.key, plain(day)]).toEqual([day.key, honest((one) => told(one) && one.day === day.key)]);
  for (const inlet of view.inlets)
    expect([inlet.key, plain(inlet)]).toEqual([inlet.key, honest((one) => told(one) && one.inlet === inlet.key)]);
  for (const device of view.devices)
    expect([device.key, plain(device)]).toEqual([device.key, honest((one) => told(one) && one.device === device.key)]);
  for (const site of view.sites)
    expect([site.key, plain(site)]).toEqual([site.key, honest((one) => told(one) && one.site === site.key)]);
  expect(view.devices.map(({ key }) => key).sort()).toEqual(
    ["dunlin", "finch", "wren"].map((one) => `${world.site}/${one}`),
  );
}

async function spans(): Promise<{ hours: number; days: number }> {
  const { rows } = await world.pool.query("select to_at - from_at = interval '1 day' as whole from statistic_span");
  return { hours: rows.filter(({ whole }) => !whole).length, days: rows.filter(({ whole }) => whole).length };
}

describe("statistics of days", () => {
  it("are read from the journal as far as that is quick, and say what is missing", async () => {
    expectHonest(await book.view({ days: 1 }, null, NAMES), ["2026-11-20"]);
    const view = await book.view(LAST_DAYS, null, NAMES);
    expect(view).toMatchObject({ zone: ZONE, from: DAYS[0], to: DAYS[4], uncountedDays: 4 });
    expect(view.days.map(({ key }) => key)).toEqual(DAYS);
  });

  it("are the same where the last hours are counted as they go", async () => {
    expectHonest(await bookIn(ZONE, recent).view({ days: 1 }, null, NAMES), ["2026-11-20"]);
    const within = (one: Seen) => one.site === world.site;
    expectHonest(await bookIn(ZONE, recent).view({ days: 1 }, [world.site], NAMES), ["2026-11-20"], within);
    // Nobody reads those hours from the journal then.
    const unaware = await bookIn(ZONE, startedAt(NOW - 2 * HOUR_MS)).view({ days: 1 }, null, NAMES);
    const all = await book.view({ days: 1 }, null, NAMES);
    expect(unaware.all.commands).toBeLessThan(all.all.commands);
  });

  it("are the same once they are counted: whole days, but by hours where something is open, and today", async () => {
    await book.count();
    // 15, 16, 18 and 19 whole; of the 17th all hours but one; of the 20th those that were over a quarter of an hour ago.
    expect(await spans()).toEqual({ days: 4, hours: 23 + 11 });
    const view = await book.view(LAST_DAYS, null, NAMES);
    expect(view.uncountedDays).toBe(1);
    expectHonest(await book.view({ from: "2026-11-18", to: "2026-11-20" }, null, NAMES), DAYS.slice(2));
  });

  it("have what ended late, in the day in which it was asked", async () => {
    const at = Date.parse("2026-11-17T08:20:00Z");
    await addEnded({ request: open.request, at, channel: "wren/porch", end: "failed", grade: 1, hops: [] });
    await world.pool.query("delete from open_command where id = $1", [open.command]);
    seen.push({
      day: "2026-11-17",
      inlet: "board",
      device: `${world.site}/wren`,
      site: world.site,
      counts: [{ what: "failed", grade: 1, count: 1 }],
    });
    await book.count();
    expect(await spans()).toEqual({ days: 5, hours: 11 });
    const view = await book.view(LAST_DAYS, null, NAMES);
    expect(view.uncountedDays).toBe(0);
    expectHonest(view, DAYS);
    await book.count();
    expectHonest(await book.view(LAST_DAYS, null, NAMES), DAYS);
  });

  it("count nothing twice when the zone becomes another one", async () => {
    for (const zone of ["Australia/Lord_Howe", "UTC"]) {
      const other = bookIn(zone);
      await other.count();
      const { all } = await other.view({ from: "2026-11-14", to: "2026-11-21" }, null, NAMES);
      expect([zone, all]).toEqual([zone, honest(() => true)]);
    }
  });

  it("of a site have what was refused there, and leave out what belongs to none", async () => {
    const view = await book.view(LAST_DAYS, [world.site], NAMES);
    expectHonest(view, DAYS, ({ site }) => site === world.site);
    expect(view.all.refused).toBeGreaterThan(0);
    const { devices, sites, all } = await book.view(LAST_DAYS, ["taken-down"], NAMES);
    expect([devices, sites.map(({ key }) => key), all.commands]).toEqual([[], ["taken-down"], 0]);
    expect((await book.view(LAST_DAYS, ["elsewhere"], NAMES)).all).toEqual(statisticsOf([]));
  });

  it("outlive the journal", async () => {
    await world.pool.query("delete from command where request_id < $1", [smallestIdAt(NOW - 11.25 * HOUR_MS)]);
    expectHonest(await book.view(LAST_DAYS, null, NAMES), DAYS);
  });
});

describe("over HTTP", () => {
  beforeAll(async () => {
    await world.pool.query("truncate request, command, open_command, statistic, statistic_span");
    await world.restart();
    await world.board("wren");
    await world.ask("wren/porch", "on");
    await world.ask("wren/porch", "off");
    await world.ask("wren/nothing", "off").catch(() => {});
  });

  it("tell how today goes, in the service's zone", async () => {
    const view = await world.client.statistics({ days: 3 });
    expect(view).toMatchObject({
      zone: ZONE,
      uncountedDays: 0,
      all: { commands: 2, delivered: 2, successRate: 1, notUnderstood: 1, refused: 0 },
    });
    expect(view.all.proven).toEqual({ published: 0, acknowledged: 0, confirmed: 2, measured: 0 });
    for (const times of Object.values(view.all.times)) expect(times?.p50).toBeGreaterThan(0);
    expect(view.days).toHaveLength(3);
    expect(view.days.at(-1)).toMatchObject({ key: dayOf(Date.now()), commands: 2 });
    expect(view.devices).toMatchObject([{ key: `${world.site}/wren`, commands: 2 }]);
    const site = await world.client.statistics({ site: world.site });
    expect([site.all.commands, site.all.notUnderstood]).toEqual([2, 0]);
  });

  it("are a table for a spreadsheet", async () => {
    const headers = { authorization: `Bearer ${world.key}` };
    const answer = await fetch(`${world.service.url}/api/v1/statistics.csv?table=devices&days=1`, { headers });
    expect(answer.headers.get("content-disposition")).toMatch(/filename="statistics-devices-\d{4}-/);
    const [head, row, end] = (await answer.text()).split("\n");
    expect(head).toMatch(/^key,name,commands,delivered,successRate,/);
    expect(row).toMatch(new RegExp(`^${world.site}/wren,[^,]*,2,2,1.0000,0,0,0,0,0,0,2,0,0,`));
    expect(end).toBe("");
  });

  it.each([
    [{ days: 0 }, /“days” must be/],
    [{ from: "2026-02-30" }, /“from” is no day of the calendar/],
    [{ from: "yesterday" }, /“from” must be a day like/],
    [{ from: "2026-11-02", to: "2026-11-01" }, /comes after/],
    [{ from: "2020-01-01", to: "2026-11-01" }, /more than 400 days/],
    [{ from: "2026-11-01", days: 3 }, /days.*from|from.*days/],
    [{ site: "elsewhere" }, /elsewhere/],
  ] as [StatisticsQuery, RegExp][])("refuse %j", async (query, why) => {
    const asking = world.client.statistics(query).then(
      () => null,
      (error) => error.problem.detail,
    );
    expect(await asking).toMatch(why);
  });
});
