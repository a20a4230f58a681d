/** The order among the commands of one channel. */
import { describe, expect, it } from "vitest";
import {
  advance,
  type Command,
  commandIn,
  emptyLane,
  type Lane,
  type LaneEvent,
  laneDueAt,
  newCommand,
  openCommands,
  restore,
} from "../src/index.ts";
import { CHANNEL, commandId, moment, order, START } from "./support/order.ts";

/** A lane with a clock and a record of what it wrote and what ended. */
class Bench {
  lane: Lane = emptyLane(CHANNEL);
  now = START;
  linkUp = true;
  readonly written: number[] = [];
  readonly ended: [number, string][] = [];

  accept(seq: number, minGapMs = 0): this {
    return this.feed({
      type: "accept",
      command: newCommand(order(seq, seq % 2 ? "on" : "off", this.now, { minGapMs }), this.now),
    });
  }

  feed(event: LaneEvent): this {
    const { lane, effects } = advance(this.lane, event, moment(this.now, { linkUp: this.linkUp }));
    this.lane = lane;
    for (const effect of effects) {
      if (effect.type === "publish") this.written.push(effect.command.seq);
      else if (effect.type === "changed" && effect.command.end !== null)
        this.ended.push([effect.command.seq, effect.command.end]);
    }
    return this;
  }

  done(seq: number): this {
    return this.feed({ type: "done", id: commandId(seq), ok: true, code: null });
  }

  /** Lets time pass up to the next thing that is due. */
  wake(): this {
    this.now = Math.max(this.now, laneDueAt(this.lane, moment(this.now, { linkUp: this.linkUp })));
    return this.feed({ type: "wake" });
  }
}

describe("one in flight", () => {
  it("sends a slider's first and last position, and supersedes what lies between", () => {
    const bench = new Bench();
    for (let seq = 1; seq <= 60; seq += 1) bench.accept(seq);
    bench.done(1);
    expect(bench.written).toEqual([1, 60]);
    expect(bench.ended.filter(([, end]) => end === "replaced")).toHaveLength(58);
    expect(bench.ended).toContainEqual([1, "overtaken"]);
  });

  it("watches a slow confirmation beside the lane", () => {
    const bench = new Bench().accept(1).done(1);
    expect([commandIn(bench.lane, "flight"), commandIn(bench.lane, "watched")?.seq]).toEqual([null, 1]);
    bench.feed({
      type: "report",
      channel: CHANNEL,
      report: { value: "on", by: "command", id: commandId(1), live: true },
    });
    expect(bench.ended).toEqual([[1, "delivered"]]);
  });

  it("gives the one in flight no further attempt when a newer one waits", () => {
    const bench = new Bench().accept(1).accept(2).wake();
    expect(bench.written).toEqual([1, 2]);
    expect(bench.ended).toEqual([[1, "overtaken"]]);
  });

  it("never writes an older one after a newer one", () => {
    const bench = new Bench().accept(5).accept(3);
    expect(bench.written).toEqual([5]);
    expect(bench.ended).toEqual([[3, "replaced"]]);
  });

  it("keeps the least time between two writes", () => {
    const bench = new Bench().accept(1, 500).done(1).accept(2, 500);
    expect(bench.written).toEqual([1]);
    bench.wake();
    expect([bench.now - START, bench.written]).toEqual([500, [1, 2]]);
  });
});

describe("a lock-out", () => {
  it("ends what waits, and what is in flight is not written again", () => {
    const bench = new Bench().accept(1).accept(2).feed({ type: "lock", channel: CHANNEL });
    expect(bench.ended).toEqual([[2, "failed"]]);
    bench.wake();
    expect([bench.written, bench.ended.at(-1)]).toEqual([[1], [1, "unanswered"]]);
  });

  it("takes the evidence of what was written before it", () => {
    const bench = new Bench().accept(1).feed({ type: "lock", channel: CHANNEL }).done(1);
    bench.feed({
      type: "report",
      channel: CHANNEL,
      report: { value: "on", by: "command", id: commandId(1), live: true },
    });
    expect(bench.ended).toEqual([[1, "delivered"]]);
  });
});

describe("without a link", () => {
  it("waits for it, and sends the newest", () => {
    const bench = new Bench();
    bench.linkUp = false;
    bench.accept(1).accept(2);
    bench.linkUp = true;
    bench.feed({ type: "wake" });
    expect(bench.written).toEqual([2]);
    expect(bench.ended).toEqual([[1, "replaced"]]);
  });

  it("expires what was never written", () => {
    const bench = new Bench();
    bench.linkUp = false;
    bench.accept(1).wake();
    expect([bench.now - START, bench.ended]).toEqual([30_000, [[1, "expired"]]]);
  });

  it("writes again as soon as it is back, for the receipt was lost with it", () => {
    const bench = new Bench().accept(1);
    bench.linkUp = false;
    bench.feed({ type: "lost" });
    bench.linkUp = true;
    bench.feed({ type: "wake" });
    expect(bench.written).toEqual([1, 1]);
  });

  it("ends unanswered what was written before and could not be written again in time", () => {
    const bench = new Bench().accept(1);
    bench.linkUp = false;
    bench.feed({ type: "lost" }).wake();
    expect([bench.now - START, bench.ended]).toEqual([30_000, [[1, "unanswered"]]]);
  });
});

describe("after a restart", () => {
  const later = moment(START + 1_000, { linkUp: false });

  function openLane(bench: Bench): Command[] {
    return openCommands(bench.lane);
  }

  it("takes up only the newest; older ones end overtaken", () => {
    const bench = new Bench().accept(1).accept(2);
    const { lane, effects } = restore(CHANNEL, openLane(bench), later);
    expect(commandIn(lane, "waiting")?.seq).toBe(2);
    const ends = effects.map((effect) => (effect.type === "changed" ? [effect.command.seq, effect.command.end] : []));
    expect(ends).toEqual([
      [1, "overtaken"],
      [2, null],
    ]);
  });

  it("does not send again what was acknowledged: a hand may have changed it meanwhile", () => {
    const bench = new Bench().accept(1).done(1);
    const { lane } = restore(CHANNEL, openLane(bench), later);
    expect([commandIn(lane, "waiting"), commandIn(lane, "flight"), commandIn(lane, "watched")?.seq]).toEqual([
      null,
      null,
      1,
    ]);
    expect(laneDueAt(lane, later)).toBe(later.now + 3_000);
  });

  it("does not send again what has used up its attempts, but waits for its answer once more", () => {
    const bench = new Bench().accept(1).wake().wake();
    expect(bench.written).toEqual([1, 1, 1]);
    const { lane } = restore(CHANNEL, openLane(bench), later);
    const { effects } = advance(
      lane,
      { type: "done", id: commandId(1), ok: true, code: null },
      { ...later, linkUp: true },
    );
    expect(commandIn(lane, "flight")?.seq).toBe(1);
    expect(effects.map((effect) => effect.type)).toEqual(["changed"]);
  });

  it("takes the evidence that comes before it is written again", () => {
    const bench = new Bench().accept(1);
    const { lane } = restore(CHANNEL, openLane(bench), later);
    const report = { value: "on", by: "command", id: commandId(1), live: true } as const;
    const { effects } = advance(lane, { type: "report", channel: CHANNEL, report }, later);
    expect(effects).toMatchObject([{ command: { end: "delivered" } }]);
  });
});
