/** The rules that keep hands, gates and motors safe: each with the sequence it exists for. */
import { describe, expect, it } from "vitest";
import { type ChannelId, newCommand, openCommands } from "../src/index.ts";
import { Bench } from "./support/bench.ts";
import { CHANNEL, commandId, order, START } from "./support/order.ts";

describe("what is urgent", () => {
  const stop = { urgent: true };

  it("goes out at once, whatever is in flight and however short ago the last write was", () => {
    const bench = new Bench().accept(1, 100, {}, { minGapMs: 500 }).accept(2, 0, stop, { minGapMs: 500 });
    expect([bench.written, bench.ended]).toEqual([[1, 2], ["1 overtaken"]]);
  });

  it("is not served by the late evidence of what it overtook", () => {
    const bench = new Bench().accept(1, 100).accept(2, 0, stop).done(1);
    bench.is(100, CHANNEL, 1);
    expect(openCommands(bench.lane).map(({ seq, stage }) => [seq, stage])).toEqual([[2, "accepted"]]);
  });

  it("is tried until it is proven, whatever the device and the broker say", () => {
    const bench = new Bench().accept(1, 0, stop);
    for (let times = 0; times < 40; times += 1) bench.done(1, false).wake();
    bench.feed({ type: "puback", id: commandId(1), attempt: 41, code: 16 });
    expect([bench.written.length, bench.ended]).toEqual([41, []]);
    bench.done(1).is(0);
    expect(bench.ended).toEqual(["1 delivered"]);
    expect(bench.now - START).toBeGreaterThan(600_000);
  });

  it("is written again when it was acknowledged and nothing shows that it happened", () => {
    const bench = new Bench().accept(1, 0, stop).done(1).is(100).wake();
    expect(bench.written).toEqual([1, 1]);
    bench.done(1).is(0);
    expect(bench.ended).toEqual(["1 delivered"]);
  });

  it("is tried for ten minutes where a person asked for it, and for good where a rule did", () => {
    const bench = new Bench().accept(1, 0, { ...stop, insistsMs: 600_000 });
    for (let times = 0; times < 60 && bench.ended.length === 0; times += 1) bench.wake();
    expect(bench.ended).toEqual(["1 unanswered"]);
    expect(bench.now - START).toBeLessThan(640_000);
    const rule = new Bench().accept(1, 0, stop);
    for (let times = 0; times < 60; times += 1) rule.wake();
    expect(rule.ended).toEqual([]);
  });

  it("waits for the link as long as it takes", () => {
    const bench = new Bench();
    bench.surroundings = { linkUp: false };
    bench.accept(1, 0, stop);
    bench.now += 86_400_000;
    bench.feed({ type: "wake" });
    bench.surroundings = {};
    bench.feed({ type: "wake" });
    expect([bench.written, bench.ended]).toEqual([[1], []]);
  });

  it("goes on after a restart, and ends when a person closes it", () => {
    const bench = new Bench().accept(1, 0, stop).wake().wake().wake().wake().restart();
    bench.feed({ type: "wake" });
    expect(bench.written).toHaveLength(6);
    bench.feed({ type: "close", id: commandId(1), note: "Ines" });
    expect(bench.ended).toEqual(["1 unanswered"]);
  });

  it("gives way to anything newer", () => {
    const bench = new Bench().accept(1, 0, stop).accept(2, 100).wake();
    expect([bench.written, bench.ended]).toEqual([[1, 2], ["1 overtaken"]]);
  });
});

describe("what may be done only once", () => {
  const once = { once: true };

  it("is on record before it is written, and is never written again", () => {
    const bench = new Bench().accept(1, "pulse", once);
    expect([bench.kept, bench.written]).toEqual([[1], []]);
    bench.feed({ type: "sending-kept", id: commandId(1) });
    expect(bench.written).toEqual([1]);
    bench.feed({ type: "lost" }).feed({ type: "wake" }).wake();
    expect([bench.written, bench.ended]).toEqual([[1], ["1 unanswered"]]);
  });

  it("after a crash in between ends unanswered, for nobody knows", () => {
    const bench = new Bench().accept(1, "pulse", once).restart();
    expect([bench.written, bench.ended]).toEqual([[], ["1 unanswered"]]);
  });

  it("after a crash before that has its turn: nothing was written for sure", () => {
    const waiting = newCommand(order(1, "pulse", START, {}, once), START);
    const bench = new Bench().restart([waiting]).feed({ type: "wake" });
    bench.feed({ type: "sending-kept", id: commandId(1) });
    expect([bench.written, bench.ended]).toEqual([[1], []]);
  });

  it("is not written once somebody has locked it out, not even if the record comes later", () => {
    const bench = new Bench().accept(1, "pulse", once).feed({ type: "lock", channel: CHANNEL });
    bench.feed({ type: "sending-kept", id: commandId(1) });
    expect([bench.written, bench.ended]).toEqual([[], ["1 failed"]]);
  });
});

describe("acknowledgements without a name", () => {
  const anonymous = { anonymous: true };
  const answering = { targetStage: "acknowledged" as const };

  it("belong to the oldest write that is owed one", () => {
    const bench = new Bench().accept(1, "on", anonymous, answering).accept(2, "off", anonymous, answering).wake();
    expect(bench.written).toEqual([1, 2]);
    bench.done(null);
    expect(bench.ended).toEqual(["1 overtaken"]);
    bench.done(null);
    expect(bench.ended).toEqual(["1 overtaken", "2 delivered"]);
  });

  it("can be claimed by the next once the older debt has timed out", () => {
    const bench = new Bench().accept(1, "on", anonymous, answering).wake();
    bench.now += 3_000;
    bench.done(null);
    expect(bench.ended).toEqual(["1 delivered"]);
  });

  it("mean nothing when none is owed", () => {
    const bench = new Bench().accept(1, "on", anonymous, answering).done(null).done(null).done(null, false);
    expect(bench.ended).toEqual(["1 delivered"]);
  });
});

describe("channels that share a lane", () => {
  const other = { channel: 8 as ChannelId, anonymous: true };
  const mine = { anonymous: true };
  const answering = { targetStage: "acknowledged" as const };

  it("have one command in flight between them, each its newest waiting, in order", () => {
    const bench = new Bench().accept(1, "on", mine, answering).accept(2, "on", other, answering);
    bench.accept(3, "off", mine, answering).accept(4, "off", other, answering);
    expect(bench.written).toEqual([1]);
    bench.done(null).done(null).done(null);
    expect(bench.written).toEqual([1, 3, 4]);
    expect(bench.ended).toEqual(["2 replaced", "1 delivered", "3 delivered", "4 delivered"]);
  });

  it("let a stop pass the other's command, and the answers still find their owners", () => {
    const bench = new Bench().accept(1, "on", mine, answering).accept(2, 0, { ...other, urgent: true }, answering);
    expect(bench.written).toEqual([1, 2]);
    bench.done(null, false);
    expect(bench.ended).toEqual(["1 failed"]);
    bench.done(null);
    expect(bench.ended).toEqual(["1 failed", "2 delivered"]);
  });
});

describe("an interlocked command", () => {
  const gated = { clearWithinMs: 4_000 };

  it("waits until its partners are seen off", () => {
    const bench = new Bench();
    bench.surroundings = { clear: () => false };
    bench.accept(1, "on", gated);
    bench.surroundings = {};
    bench.feed({ type: "wake" });
    expect(bench.written).toEqual([1]);
  });

  it("fails when nothing proves it in time", () => {
    const bench = new Bench();
    bench.surroundings = { clear: () => false };
    bench.accept(1, "on", gated).wake();
    expect([bench.now - START, bench.written, bench.ended]).toEqual([4_000, [], ["1 failed"]]);
  });

  it("is not written again when a partner was switched on meanwhile", () => {
    const bench = new Bench().accept(1, "on", gated);
    bench.surroundings = { clear: () => false };
    bench.wake();
    expect([bench.written, bench.ended]).toEqual([[1], ["1 unanswered"]]);
  });
});

describe("a dimmer on its way", () => {
  it("agrees within the tolerance, and is judged by where it comes to rest", () => {
    const bench = new Bench().accept(1, 80, {}, { tolerance: 1 }).done(1).is(20).is(50).is(79);
    expect(bench.ended).toEqual(["1 delivered"]);
  });

  it("agrees with the very number that was written, where no tolerance is stated", () => {
    const bench = new Bench().accept(1, 80).done(1).is(79).wake();
    expect(bench.ended).toEqual(["1 failed"]);
  });

  it("is contradicted by where it stays", () => {
    const bench = new Bench().accept(1, 80).done(1).is(20).is(50).wake();
    expect(bench.ended).toEqual(["1 failed"]);
  });
});
