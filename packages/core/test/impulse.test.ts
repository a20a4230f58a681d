/** What changes to the other state by each impulse: written once, and only while it is seen to be otherwise. */
import { describe, expect, it } from "vitest";
import {
  advance,
  type Command,
  emptyLane,
  type Lane,
  type LaneEvent,
  newCommand,
  openCommands,
  type Value,
} from "../src/index.ts";
import { CHANNEL, commandId, moment, order, START } from "./support/order.ts";

function impulse(seq: number, to: Value): Command {
  return newCommand(order(seq, to, START, {}, { once: true, drive: "impulse", writes: "pulse" }), START);
}

/** Plays events, each at its time; what the channel is known to be counts at each. */
function play(events: readonly (readonly [LaneEvent, number, Value | null])[]) {
  let lane: Lane = emptyLane(CHANNEL);
  const writes: number[] = [];
  const ends: string[] = [];
  for (const [event, at, known] of events) {
    const step = advance(lane, event, moment(START + at, { known: () => known }));
    lane = step.lane;
    for (const effect of step.effects) {
      if (effect.type === "publish") writes.push(effect.command.seq);
      if (effect.type === "changed" && effect.command.end !== null)
        ends.push(`${effect.command.seq} ${effect.command.end} ${effect.command.reason ?? ""}`.trim());
    }
  }
  return { writes, ends, open: openCommands(lane).length };
}

const kept = (seq: number): LaneEvent => ({ type: "sending-kept", id: commandId(seq) });
const report = (value: Value): LaneEvent => ({
  type: "report",
  channel: CHANNEL,
  report: { value, by: null, id: null, live: true },
});

describe("an impulse", () => {
  it("goes out once where the channel is seen to be otherwise, and is confirmed by what is seen", () => {
    const played = play([
      [{ type: "accept", command: impulse(1, "on") }, 0, "off"],
      [kept(1), 1, "off"],
      [report("on"), 300, "on"],
    ]);
    expect(played).toEqual({ writes: [1], ends: ["1 delivered"], open: 0 });
  });

  it("does not go out where it is so already", () => {
    expect(play([[{ type: "accept", command: impulse(1, "on") }, 0, "on"]])).toEqual({
      writes: [],
      ends: ["1 delivered"],
      open: 0,
    });
  });

  it("does not go out where nobody knows what it is", () => {
    expect(play([[{ type: "accept", command: impulse(1, "on") }, 0, null]])).toEqual({
      writes: [],
      ends: ["1 failed state-unknown"],
      open: 0,
    });
  });

  it("does not go out where a hand was quicker, even after it was put on record", () => {
    const played = play([
      [{ type: "accept", command: impulse(1, "on") }, 0, "off"],
      [kept(1), 5, "on"],
    ]);
    expect(played).toEqual({ writes: [], ends: ["1 delivered"], open: 0 });
  });

  it("is never repeated, however long nothing comes back", () => {
    const played = play([
      [{ type: "accept", command: impulse(1, "on") }, 0, "off"],
      [kept(1), 1, "off"],
      ...[3_000, 6_000, 9_000, 60_000].map((at) => [{ type: "wake" } as const, at, "off"] as const),
    ]);
    expect(played.writes).toEqual([1]);
    expect(played.ends[0]).toMatch(/^1 unanswered/);
  });
});
