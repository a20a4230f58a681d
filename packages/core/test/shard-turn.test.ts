import { type ShardPicture, shardTurn } from "@bold-relay/core";
import fc from "fast-check";
import { describe, expect, it } from "vitest";

const led = (shard: number, leader: string | null, more: Partial<ShardPicture> = {}): ShardPicture => ({
  shard,
  leader,
  freeMs: leader === null ? 50 : 0,
  wanted: null,
  ...more,
});
const heldBy = (name: string, shards: readonly ShardPicture[]) =>
  new Set(shards.flatMap(({ shard, leader }) => (leader === name ? [shard] : [])));

describe("a turn at the shards", () => {
  it("takes no more than its share while others have too few", () => {
    const shards = [led(0, null), led(1, null), led(2, null), led(3, null)];
    expect(shardTurn({ me: "b", held: new Set(), shards, able: ["a", "b"] }).claim).toEqual([0, 1]);
  });

  it("takes what nobody has taken for a moment, whatever it has", () => {
    const shards = [led(0, "a"), led(1, "a"), led(2, null, { freeMs: 300 })];
    expect(shardTurn({ me: "a", held: new Set([0, 1]), shards, able: ["a", "b", "c"] }).claim).toEqual([2]);
  });

  it("takes back its own lease of the run before", () => {
    expect(shardTurn({ me: "a", held: new Set(), shards: [led(0, "a")], able: ["a", "b"] }).claim).toEqual([0]);
  });

  it("leaves to another one what is handed to that", () => {
    const shards = [led(0, null, { wanted: "b", freeMs: 900 })];
    expect(shardTurn({ me: "a", held: new Set(), shards, able: ["a", "b"] }).claim).toEqual([]);
    expect(shardTurn({ me: "b", held: new Set(), shards, able: ["a", "b"] }).claim).toEqual([0]);
  });

  it("gives what somebody wants elsewhere", () => {
    const shards = [led(0, "a", { wanted: "b" }), led(1, "b")];
    expect(shardTurn({ me: "a", held: new Set([0]), shards, able: ["a", "b"] }).give).toEqual({ shard: 0, to: "b" });
  });

  it("gives nothing where one shard is all there is", () => {
    expect(shardTurn({ me: "a", held: new Set([0]), shards: [led(0, "a")], able: ["a", "b", "c"] }).give).toBeNull();
  });

  it("ends with fair shares, whoever had what, and never gives in circles", () => {
    const names = ["a", "b", "c", "d"];
    const start = fc.record({
      count: fc.integer({ min: 1, max: 24 }),
      able: fc.subarray(names, { minLength: 1 }),
      owners: fc.array(fc.constantFrom<string | null>(...names, null), { minLength: 24, maxLength: 24 }),
    });
    fc.assert(
      fc.property(start, ({ count, able, owners }) => {
        let shards = owners.slice(0, count).map((owner, shard) => {
          const leader = owner !== null && able.includes(owner) ? owner : null;
          return led(shard, leader, { freeMs: leader === null ? 1_000 : 0 });
        });
        let gifts = 0;
        for (let round = 0; round < 40; round += 1) {
          for (const me of able) {
            const { claim, give } = shardTurn({ me, held: heldBy(me, shards), shards, able });
            if (give) gifts += 1;
            shards = shards.map((one) => {
              if (claim.includes(one.shard)) return led(one.shard, me);
              return give?.shard === one.shard ? led(one.shard, give.to) : one;
            });
          }
        }
        const counts = able.map((name) => heldBy(name, shards).size);
        expect(counts.reduce((sum, one) => sum + one, 0)).toBe(count);
        expect(Math.max(...counts) - Math.min(...counts)).toBeLessThanOrEqual(1);
        expect(gifts).toBeLessThanOrEqual(count);
      }),
    );
  });
});
