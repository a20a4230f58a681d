/** Topic filters, against the definition played out level by level. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  buildSnapshot,
  type ChannelId,
  type ChannelRecord,
  covers,
  filtersOfSites,
  isFilter,
  overlap,
  readTopic,
  shippedProfiles,
  type TopicUse,
} from "../src/index.ts";
import { record, snapshot } from "./support/site.ts";

const level = fc.constantFrom("a", "b", "c", "");
const topic = fc.array(level, { minLength: 1, maxLength: 4 }).map((levels) => levels.join("/"));
const filter = fc
  .tuple(fc.array(fc.constantFrom("a", "b", "+", ""), { minLength: 0, maxLength: 4 }), fc.boolean())
  .map(([levels, hash]) => [...levels, ...(hash || levels.length === 0 ? ["#"] : [])].join("/"));

describe("a filter", () => {
  it.each([
    ["a/#", "a", true],
    ["a/#", "a/b/c", true],
    ["a/+", "a", false],
    ["a/+", "a/", true],
    ["+/+", "/b", true],
    ["#", "$SYS/x", false],
    ["+/x", "$SYS/x", false],
    ["$SYS/#", "$SYS/x", true],
    ["a/b", "A/b", false],
  ])("%s covers %s: %s", (one, of, is) => {
    expect(covers(one, of)).toBe(is);
  });

  it("overlaps another where a topic is covered by both", () => {
    fc.assert(
      fc.property(filter, filter, topic, (one, other, of) => {
        if (covers(one, of) && covers(other, of)) expect(overlap(one, other)).toBe(true);
        expect(overlap(one, other)).toBe(overlap(other, one));
      }),
      { numRuns: 2_000 },
    );
  });

  it.each([
    ["a/+/b", true],
    ["#", true],
    ["a/#/b", false],
    ["a+/b", false],
    ["a/b#", false],
    ["", false],
    ["a\u0000", false],
  ])("“%s” is one: %s", (text, is) => {
    expect(isFilter(text)).toBe(is);
  });
});

describe("what the service listens to", () => {
  it("covers every topic that a device speaks on, and each once, whatever profiles stand side by side", () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...shippedProfiles), { minLength: 1, maxLength: 8 }), (profiles) => {
        const records = profiles.flatMap((profile, place) =>
          ["one", "two"].map(
            (slug, index): ChannelRecord => ({
              id: (place * 2 + index + 1) as ChannelId,
              number: place * 2 + index + 1,
              slug,
              name: slug,
              kind: "relay",
              delivery: {},
              wiring: {},
              site: { slug: "s", name: "S" },
              room: { slug: "r", name: "R" },
              device: { id: place, slug: `d${place}`, name: "D" },
              profile,
            }),
          ),
        );
        const { filters, byTopic } = buildSnapshot(records);
        for (const [of, use] of byTopic) {
          const times = filters.filter((one) => covers(one, of)).length;
          const speaks = use.done.length > 0 || use.is.length > 0 || use.here !== null;
          if (speaks) expect([of, times]).toEqual([of, 1]);
        }
      }),
    );
  });
});

describe("what is listened to of some sites only", () => {
  const SITES = ["alder-row", "fennel-hall", "glasshouse"];
  const sitesOf = ({ done, is, here, do: commands }: TopicUse) => {
    const channels = [...done, ...is, ...commands].map(({ site }) => site.slug);
    return [...new Set(here === null ? channels : [...channels, here.device.split("/")[0] ?? ""])];
  };

  it("is every topic that their devices speak on, once, and none of the other sites", () => {
    const board = fc.record({ site: fc.constantFrom(...SITES), profile: fc.constantFrom(...shippedProfiles) });
    fc.assert(
      fc.property(fc.array(board, { minLength: 1, maxLength: 9 }), fc.subarray(SITES), (boards, chosen) => {
        const whole = buildSnapshot(
          boards.map(({ site, profile }, index) => ({
            ...record(index + 1, `Room ${index}`, "lamp", { site: { slug: site, name: site }, profile }),
            kind: "relay" as const,
          })),
        );
        const { filters, doFilters } = filtersOfSites(whole, new Set(chosen));
        // A topic that boards of several sites share belongs to all of them.
        const uses = [...whole.byTopic].filter(([, use]) => sitesOf(use).length === 1);
        const isOurs = (use: TopicUse) => chosen.includes(sitesOf(use)[0] ?? "");
        const timesIn = (all: readonly string[], of: string) => all.filter((one) => covers(one, of)).length;
        const spoken = uses.filter(([, { done, is, here }]) => done.length + is.length > 0 || here !== null);
        expect(spoken.map(([of]) => [of, timesIn(filters, of)])).toEqual(
          spoken.map(([of, use]) => [of, isOurs(use) ? 1 : 0]),
        );
        const written = uses.filter(([, use]) => use.do.length > 0);
        expect(written.map(([of]) => [of, timesIn(doFilters, of) > 0])).toEqual(
          written.map(([of, use]) => [of, isOurs(use)]),
        );
      }),
    );
  });
});

describe("a message", () => {
  it("is read whatever its bytes are", () => {
    const topics = [...snapshot.byTopic.keys(), "nobody/knows"];
    fc.assert(
      fc.property(fc.constantFrom(...topics), fc.uint8Array({ maxLength: 100 }), (of, payload) => {
        const seen = readTopic(snapshot, of, payload);
        expect(seen.role === null).toBe(of === "nobody/knows");
      }),
    );
  });
});
