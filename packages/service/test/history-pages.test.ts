/** The history of a busy channel: pages of entries that leave out nothing, and an answer that counts all of them. */
import type { HistoryEntry, HistoryView } from "@bold-relay/api";
import { DAY_MS, smallestIdAt } from "@bold-relay/core";
import { afterAll, beforeAll, expect, it } from "vitest";
import { createWorld, type World } from "./support/world.ts";

let world: World;
const start = Date.now() - 3_600_000;

beforeAll(async () => {
  world = await createWorld();
  // Two changes each millisecond, so that a page ends between two of one moment wherever it can.
  await note(
    Array.from({ length: 400 }, (_, index) => ({ at: start + Math.floor(index / 2), to: index % 2 ? "off" : "on" })),
  );
});
afterAll(() => world.stop());

async function note(changes: readonly { at: number; to: string }[]): Promise<void> {
  const rows = changes.map((change, index) => ({
    ...change,
    id: smallestIdAt(change.at).slice(0, 24) + String(index).padStart(12, "0"),
  }));
  await world.pool.query(
    `insert into state_change (id, channel_id, at, from_value, to_value, cause)
     select r.id, ch.id, to_timestamp(r.at / 1000), null, r."to", 'unknown'
     from json_to_recordset($1) as r (id uuid, at float8, "to" text) join channel ch on ch.slug = 'porch' join device d on d.id = ch.device_id and d.slug = 'wren'`,
    [JSON.stringify(rows)],
  );
}

function history(before: string | null, limit: number): Promise<HistoryView> {
  return world.client.history(world.address("wren/porch"), { limit, ...(before !== null && { before }) });
}

async function allEntries(limit: number): Promise<HistoryEntry[]> {
  const all: HistoryEntry[] = [];
  let before: string | null = null;
  do {
    const page = await history(before, limit);
    all.unshift(...page.entries);
    before = page.older;
  } while (before !== null);
  return all;
}

it.each([1, 7, 64, 500])("pages of %d are together what one page is", async (limit) => {
  const entries = await allEntries(limit);
  expect(entries).toEqual((await history(null, 500)).entries);
  expect(entries.filter(({ kind }) => kind === "change")).toHaveLength(400);
});

it("commands are counted in the answer also where the page does not show them", async () => {
  await world.board("wren");
  for (let index = 0; index < 12; index += 1) await world.ask("wren/porch", index % 2 ? "off" : "on", 10);
  const page = await history(null, 3);
  expect(page.entries.length).toBeLessThan(12);
  expect(page.commanded).toBe(12);
  expect(page.commands).toHaveLength(12);
  expect(page.answer).toContain("12 commanded, 0 not delivered");
  expect(page.answer).toMatch(/has been off since \d\d:\d\d, requested by /);
});

it("a day with more changes than are read begins at the oldest that was read", async () => {
  const from = Date.now() - DAY_MS + 60_000;
  await note(Array.from({ length: 6_000 }, (_, index) => ({ at: from + index, to: index % 2 ? "off" : "on" })));
  const page = await history(null, 10);
  expect(Date.parse(page.from)).toBeGreaterThan(from);
  expect(page.on.every(({ from: lit }) => lit >= page.from)).toBe(true);
});

it.each([{ limit: 0 }, { limit: 501 }, { before: "yesterday" }])("%j is refused", async (query) => {
  await expect(world.client.history(world.address("wren/porch"), query)).rejects.toMatchObject({
    problem: { code: "bad-request" },
  });
});
