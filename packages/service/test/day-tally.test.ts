/** The statistics of the last day: counted as requests go, and again from the journal after a start, with the same result. */
import { DAY_MS, MINUTE_MS } from "@bold-relay/core";
import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { DayTally } from "../src/state/day-tally.ts";
import { createWorld, type World } from "./support/world.ts";

const NOON = Date.UTC(2026, 5, 1, 12);

describe("the tally", () => {
  it("tells another instance what belongs to no site, and only what that cannot have read", () => {
    let now = NOON;
    const tally = new DayTally({ now: () => now });
    const counted = { minute: NOON / MINUTE_MS, requests: 7, refused: 7, delivered: 0, notDelivered: 0 };
    tally.remember([{ site: null, ...counted }]);
    now += 5 * MINUTE_MS;
    tally.asked(null, now, true);
    tally.asked("alder-row", now, true);
    const readLater = now;
    now += 2 * MINUTE_MS;
    tally.asked(null, now, true);
    const ofNowhere = (refused: number) => ({ requests: refused, refused, delivered: 0, notDelivered: 0 });
    expect(tally.lastDayNowhere(NOON)).toEqual(ofNowhere(2));
    expect(tally.lastDayNowhere(readLater)).toEqual(ofNowhere(1));
    expect(tally.lastDay([""])).toEqual(ofNowhere(9));
    now += DAY_MS + MINUTE_MS;
    expect(tally.lastDayNowhere(NOON)).toEqual(ofNowhere(0));
  });

  it("is what a count of everything asked in the last day would be, whenever it is asked", () => {
    const thing = fc.record({
      site: fc.constantFrom<(string | null)[]>(null, "alder-row", "glasshouse"),
      askedAgoMs: fc.integer({ min: 0, max: 2 * DAY_MS }),
      kind: fc.constantFrom("asked", "refused", "delivered", "not"),
    });
    const seen = fc.constantFrom<(string[] | null)[]>(
      null,
      ["alder-row"],
      ["glasshouse", "alder-row"],
      ["fennel-hall"],
    );
    fc.assert(
      fc.property(fc.array(thing, { maxLength: 60 }), fc.nat({ max: DAY_MS }), seen, (things, laterMs, sites) => {
        let now = NOON;
        const tally = new DayTally({ now: () => now });
        for (const { site, askedAgoMs, kind } of things) {
          const askedAt = NOON - askedAgoMs;
          if (kind === "asked" || kind === "refused") tally.asked(site, askedAt, kind === "refused");
          else tally.ended(site, askedAt, kind === "delivered");
        }
        now += laterMs;
        const oldest = Math.floor(now / MINUTE_MS) * MINUTE_MS - DAY_MS;
        const recent = things.filter(({ askedAgoMs }) => NOON - askedAgoMs >= oldest);
        const mine = recent.filter(({ site }) => sites === null || (site !== null && sites.includes(site)));
        const count = (...kinds: string[]) => mine.filter(({ kind }) => kinds.includes(kind)).length;
        expect(tally.lastDay(sites)).toEqual({
          requests: count("asked", "refused"),
          refused: count("refused"),
          delivered: count("delivered"),
          notDelivered: count("not"),
        });
      }),
    );
  });
});

describe("after a start", () => {
  let world: World;
  beforeAll(async () => {
    world = await createWorld();
    await world.board("wren");
  });
  afterAll(() => world.stop());

  it("the journal tells what was counted before", async () => {
    for (const action of ["on", "off", "on"])
      await world.client.ask({ target: "porch lantern, wren", action }, { waitS: 20 });
    await world.client.ask({ target: "no such lamp", action: "on" }).catch(() => {});
    const { lastDay } = await world.client.status();
    expect(lastDay).toEqual({ requests: 4, refused: 1, delivered: 3, notDelivered: 0 });
    await world.restart();
    expect((await world.client.status()).lastDay).toEqual(lastDay);
    await world.client.ask({ target: "porch lantern, wren", action: "off" }, { waitS: 20 });
    expect((await world.client.status()).lastDay).toEqual({ ...lastDay, requests: 5, delivered: 4 });
  });
});
