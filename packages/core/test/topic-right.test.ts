/** Whose a topic is: what may be written where, and who may listen. Written from the rules in docs/security.md. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  listenProblem,
  mayHear,
  publishProblem,
  type TopicPicture,
  type TopicWriting,
  topicFormProblem,
  topicOwners,
} from "../src/index.ts";
import { snapshot } from "./support/site.ts";

const picture: TopicPicture = {
  snapshot,
  listeners: [
    { slug: "buttons", site: "alder-row", filters: ["buttons/+"] },
    { slug: "foyer", site: "fennel-hall", filters: ["foyer/#"] },
    { slug: "team-wide", site: null, filters: ["team/+"] },
  ],
  tellers: [
    { slug: "pager", site: "alder-row", topic: "told/alder" },
    { slug: "board", site: null, topic: "told/team" },
  ],
  reserved: ["bold-relay-shard-0/marker"],
};
const { topics } = snapshot.channels[0] ?? { topics: { do: "", is: "" } };
const command = topics.do ?? "";
const report = topics.is ?? "";

const hand = (...sites: string[]): TopicWriting => ({ by: "hand", sites: sites.length === 0 ? null : sites });
const of = (by: "test request" | "answer" | "notification", slug: string, site: string | null): TopicWriting => ({
  by,
  slug,
  site,
});

describe("a topic to publish on", () => {
  it.each([
    "",
    "$SYS/broker",
    "$CONTROL/dynamic-security/v1",
    "a/+/b",
    "a/#",
    "a\u0000b",
    "a\nb",
    "a\u009bb",
    "a\ud800",
    "a\uffff",
    "a".repeat(2_000),
  ])("is not %j", (topic) => {
    expect(topicFormProblem(topic)).not.toBeNull();
    for (const writing of [hand(), of("answer", "buttons", null), of("notification", "n", null)])
      expect(publishProblem(picture, writing, topic)).not.toBeNull();
  });

  it.each<[TopicWriting, string, boolean]>([
    [hand(), command, true],
    [hand(), "nobody/knows", true],
    [hand(), "bold-relay-shard-0/marker", false],
    [hand("alder-row"), command, true],
    [hand("alder-row"), "alder-row/anything", true],
    [hand("alder-row"), "buttons/7", true],
    [hand("alder-row"), "nobody/knows", false],
    [hand("alder-row"), "fennel-hall/board/lamp/do", false],
    [hand("alder-row"), "foyer/7", false],
    [hand("alder-row"), "team/7", false],
    [hand("alder-row"), "told/alder", true],
    [hand("alder-row"), "told/team", false],
    [hand("fennel-hall"), command, false],
    [of("test request", "buttons", "alder-row"), "buttons/7", true],
    [of("test request", "buttons", "alder-row"), "foyer/7", false],
    [of("test request", "buttons", "alder-row"), command, false],
    [of("test request", "buttons", "alder-row"), "nobody/knows", false],
    [of("answer", "buttons", "alder-row"), "answers/7", true],
    [of("answer", "buttons", "alder-row"), "alder-row/answers/7", true],
    [of("answer", "buttons", "alder-row"), command, false],
    [of("answer", "buttons", "alder-row"), report, false],
    [of("answer", "buttons", "alder-row"), "buttons/7", false],
    [of("answer", "buttons", "alder-row"), "told/alder", false],
    [of("answer", "buttons", "alder-row"), "fennel-hall/x", false],
    [of("answer", "team-wide", null), command, false],
    [of("notification", "pager", "alder-row"), "told/alder", true],
    [of("notification", "pager", "alder-row"), "told/team", false],
    [of("notification", "pager", "alder-row"), "glow/alder", true],
    [of("notification", "pager", "alder-row"), command, false],
    [of("notification", "pager", "alder-row"), report, false],
    [of("notification", "pager", "alder-row"), "buttons/7", false],
    [of("notification", "board", null), "fennel-hall/told", true],
  ])("%j on %s: %s", (writing, topic, may) => {
    expect([topic, publishProblem(picture, writing, topic) === null]).toEqual([topic, may]);
  });
});

describe("an inlet", () => {
  it.each([
    ["alder-row", "buttons/+", true],
    ["alder-row", "alder-row/wall/+", true],
    ["alder-row", "loose/+", true],
    ["alder-row", "fennel-hall/+/+/is", false],
    ["alder-row", "fennel-hall/#", false],
    ["alder-row", "+/+/+/is", false],
    ["alder-row", "#", false],
    ["alder-row", "foyer/+", false],
    ["alder-row", "team/7", false],
    ["alder-row", "told/alder", false],
    ["alder-row", "told/+", false],
    [null, "team/+", true],
    [null, "foyer/7", false],
    [null, "told/#", false],
  ] as const)("of %s on %s: %s", (site, filter, may) => {
    expect([filter, listenProblem(picture, { slug: "mine", site }, filter) === null]).toEqual([filter, may]);
  });

  it("keeps its own topics when it is saved again", () => {
    expect(listenProblem(picture, { slug: "buttons", site: "alder-row" }, "buttons/+")).toBeNull();
  });

  it("that may listen somewhere hears nothing there that belongs to another site", () => {
    const level = fc.constantFrom("alder-row", "fennel-hall", "buttons", "foyer", "told", "alder", "7", "is");
    const levels = fc.array(fc.tuple(level, fc.boolean()), { minLength: 1, maxLength: 4 });
    const mine = { slug: "mine", site: "alder-row" };
    fc.assert(
      fc.property(levels, (all) => {
        const filter = all.map(([name, isOpen]) => (isOpen ? "+" : name)).join("/");
        const topic = all.map(([name]) => name).join("/");
        if (listenProblem(picture, mine, filter) !== null) return;
        expect(topicOwners(picture, topic).filter(({ site }) => site !== "alder-row")).toEqual([]);
        expect(mayHear(picture, mine, topic)).toBe(true);
      }),
      { numRuns: 3_000 },
    );
  });

  it("does not hear what belongs to somebody else by now", () => {
    expect(mayHear(picture, { site: "alder-row" }, "fennel-hall/x")).toBe(false);
    expect(mayHear(picture, { site: "alder-row" }, "told/alder")).toBe(false);
    expect(mayHear(picture, { site: null }, "bold-relay-shard-0/marker")).toBe(false);
    expect(mayHear(picture, { site: "alder-row" }, "buttons/7")).toBe(true);
  });
});
