/** What is told about instances that run beside each other. */
import { describe, expect, it } from "vitest";
import { CLOCK_TOLERANCE_MS, type ClusterInstance, clusterFindings, INSTANCE_ALIVE_MS } from "../src/index.ts";

const one = (name: string, more: Partial<ClusterInstance> = {}): ClusterInstance => ({
  name,
  version: "1.0.0",
  build: null,
  seenMs: 500,
  aheadMs: 3,
  brokerReached: null,
  ...more,
});

describe("a cluster", () => {
  it.each<[string, readonly ClusterInstance[], string | null, readonly string[]]>([
    ["whose instances are all alike and seen", [one("a"), one("b")], "a", []],
    ["of one", [one("a")], "a", []],
    ["without a leader", [one("a")], null, ["No instance leads."]],
    [
      "of which one is not seen any more",
      [one("a"), one("b", { seenMs: 90_000 })],
      "a",
      ["b was last seen 2 min ago.", "One instance is left."],
    ],
    ["of two versions", [one("a"), one("b", { version: "1.1.0" })], "a", ["Different versions run: 1.0.0, 1.1.0."]],
    [
      "whose leader does not reach the broker",
      [one("a", { brokerReached: false }), one("b", { brokerReached: true })],
      "a",
      ["a does not reach the broker."],
    ],
    ["with a clock that is ahead", [one("a", { aheadMs: 5_000 })], "a", ["The clock of a is 5.0 s ahead of"]],
    ["with a clock that is behind", [one("a", { aheadMs: -5_000 })], "a", ["The clock of a is 5.0 s behind"]],
  ])("%s has just that to be told of", (_what, instances, leader, told) => {
    const findings = clusterFindings(instances, [{ shard: 0, leader }]);
    expect(findings.map((text, index) => text.startsWith(told[index] ?? "nothing"))).toEqual(told.map(() => true));
  });

  it("of which one shard has no leader tells which", () => {
    const shards = [
      { shard: 0, leader: "a" },
      { shard: 1, leader: null },
    ];
    expect(clusterFindings([one("a"), one("b")], shards)).toEqual([
      "No instance leads shard 1. Requests for its sites wait until one does.",
    ]);
  });

  it("does not count the version or the clock of one that is dead", () => {
    const dead = one("b", { seenMs: INSTANCE_ALIVE_MS, version: "0.9.0", aheadMs: CLOCK_TOLERANCE_MS * 10 });
    expect(
      clusterFindings([one("a"), one("c"), dead], [{ shard: 0, leader: "a" }]).filter(
        (text) => !text.startsWith("b was"),
      ),
    ).toEqual([]);
  });
});
