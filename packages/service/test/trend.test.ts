/** A channel over a longer time: a reading has a curve, everything else the time that it was on, day by day. */
import { HOUR_MS, type Profile, smallestIdAt } from "@bold-relay/core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createWorld, type World } from "./support/world.ts";

const sensors: Profile = {
  slug: "sensors",
  name: "Reads",
  codec: "json",
  topics: { do: "{site}/{device}/{channel}/do", done: null, is: "{site}/{device}/{channel}/is", here: null },
  delivery: {},
};

let world: World;
const now = Date.now();
/** Longer ago than this nothing was on. */
const midnight = Math.floor(now / (24 * HOUR_MS)) * 24 * HOUR_MS;

beforeAll(async () => {
  world = await createWorld({
    environment: { BOLD_RELAY_ZONE: "UTC" },
    profiles: [sensors],
    describe: (slug) => ({
      slug,
      name: "Site",
      rooms: [
        {
          slug: "bay",
          name: "Bay",
          devices: [
            {
              slug: "air",
              name: "air",
              profile: "sensors",
              channels: [{ slug: "warmth", name: "Warmth", kind: "sensor", unit: "°C" }],
            },
            {
              slug: "wren",
              name: "board",
              profile: "reporting",
              channels: [{ slug: "porch", name: "Porch", kind: "light" }],
            },
          ],
        },
      ],
    }),
  });
  // A reading each minute of two days, on a line from 0 to 48; the last is five minutes old.
  for (let hours = 0; hours < 48; hours += 1) {
    const start = now - 5 * 60_000 - hours * HOUR_MS;
    const rows = Array.from({ length: 60 }, (_, minute) => ({
      at: start - minute * 60_000,
      to: String(48 - hours - minute / 60),
    }));
    await note("warmth", rows);
  }
  await note("porch", [
    { at: midnight - 50 * HOUR_MS, to: "on" },
    { at: midnight - 47 * HOUR_MS, to: "off" },
    { at: midnight - 4 * HOUR_MS, to: "on" },
  ]);
});
afterAll(() => world.stop());

async function note(channel: string, changes: readonly { at: number; to: string }[]): Promise<void> {
  const rows = changes.map(({ at, to }, index) => ({
    id: smallestIdAt(at).slice(0, 24) + String(index).padStart(12, "0"),
    at,
    to,
  }));
  await world.pool.query(
    `insert into state_change (id, channel_id, at, from_value, to_value, cause)
     select r.id, ch.id, to_timestamp(r.at / 1000), null, r."to", 'unknown'
     from json_to_recordset($1) as r (id uuid, at float8, "to" text) join channel ch on ch.slug = $2`,
    [JSON.stringify(rows), channel],
  );
}

describe("a reading", () => {
  it("is a curve of some hundred points, however many were read", async () => {
    const history = await world.client.trend(world.address("air/warmth"), 1);
    expect(history).toMatchObject({ kind: "sensor", unit: "°C", zone: "UTC", days: [] });
    expect(history.readings.length).toBeGreaterThan(400);
    expect(history.readings.length).toBeLessThanOrEqual(482);
    const times = history.readings.map(({ at }) => at);
    expect(times).toEqual([...times].sort());
    for (const { low, high, last } of history.readings)
      expect([low <= last, last <= high, high - low <= 0.06]).toEqual([true, true, true]);
    const ofTwoDays = await world.client.trend(world.address("air/warmth"), 2);
    expect(Math.min(...ofTwoDays.readings.map(({ low }) => low))).toBeLessThan(1);
    expect(ofTwoDays.readings.length).toBeLessThanOrEqual(482);
  });

  it("is told as one, neither on nor off", async () => {
    const day = await world.client.history(world.address("air/warmth"), { zone: "UTC" });
    expect(day.answer).toMatch(
      /^Warmth, Bay: 48 °C, read 5 min ago\. In 24 h: lowest 24\.\d+ °C about \d\d:\d\d, highest 48 °C about \d\d:\d\d\.$/,
    );
    expect([day.kind, day.onMs, day.wasOn, day.entries[0]?.on, day.entries[0]?.by]).toEqual([
      "sensor",
      0,
      false,
      null,
      "",
    ]);
  });
});

describe("everything else", () => {
  it("has the time that it was on, of each day up to now", async () => {
    const { days, readings } = await world.client.trend(world.address("wren/porch"), 4);
    expect(readings).toEqual([]);
    const today = days.at(-1)?.onMs ?? 0;
    expect(days.slice(0, -1).map(({ onMs }) => onMs / HOUR_MS)).toEqual([2, 1, 4]);
    expect(today).toBeGreaterThanOrEqual(now - midnight);
    expect(days.at(-1)?.day).toBe(new Date(now).toISOString().slice(0, 10));
  });

  it("was on before the first change that is looked at", async () => {
    const { days } = await world.client.trend(world.address("wren/porch"), 1);
    expect(days[0]?.onMs).toBeGreaterThanOrEqual(now - midnight);
    expect((await world.client.history(world.address("wren/porch"), { zone: "UTC" })).kind).toBe("light");
  });

  it.each([0, 91, 1.5])("of %d days is refused", async (days) => {
    await expect(world.client.trend(world.address("wren/porch"), days)).rejects.toMatchObject({
      problem: { code: "bad-request" },
    });
  });

  it("of no channel is not found", async () => {
    await expect(world.client.trend(world.address("wren/nothing"), 1)).rejects.toMatchObject({
      problem: { status: 404 },
    });
  });
});
