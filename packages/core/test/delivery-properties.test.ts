/**
 * Whatever order, loss, repetition or lateness the evidence comes in: every command ends, none ends
 * twice, never two are in flight, and the newest wins.
 */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  advance,
  type Command,
  commandIn,
  emptyLane,
  isIdle,
  type Lane,
  type LaneEvent,
  type LaneStep,
  laneDueAt,
  newCommand,
  openCommands,
  type Report,
  restore,
  type Stage,
  stageRank,
} from "../src/index.ts";
import { CHANNEL, commandId, moment, order, START } from "./support/order.ts";

type Act =
  | { act: "ask"; to: "on" | "off" }
  | { act: "puback"; of: number; code: number }
  | { act: "done"; of: number; ok: boolean }
  | { act: "report"; of: number | null; to: "on" | "off"; by: Report["by"]; live: boolean }
  | { act: "link"; up: boolean }
  | { act: "pass"; ms: number }
  | { act: "lock" }
  | { act: "restart" };

const value = fc.constantFrom("on" as const, "off" as const);
const recent = fc.nat({ max: 4 });
const anyAct: fc.Arbitrary<Act> = fc.oneof(
  { weight: 4, arbitrary: fc.record({ act: fc.constant("ask" as const), to: value }) },
  {
    weight: 4,
    arbitrary: fc.record({ act: fc.constant("puback" as const), of: recent, code: fc.constantFrom(0, 0, 0, 16, 135) }),
  },
  {
    weight: 4,
    arbitrary: fc.record({ act: fc.constant("done" as const), of: recent, ok: fc.constantFrom(true, true, false) }),
  },
  {
    weight: 4,
    arbitrary: fc.record({
      act: fc.constant("report" as const),
      of: fc.option(recent),
      to: value,
      by: fc.constantFrom(null, "command" as const, "hand" as const, "boot" as const),
      live: fc.boolean(),
    }),
  },
  { weight: 2, arbitrary: fc.record({ act: fc.constant("link" as const), up: fc.boolean() }) },
  { weight: 4, arbitrary: fc.record({ act: fc.constant("pass" as const), ms: fc.nat({ max: 6_000 }) }) },
  { weight: 1, arbitrary: fc.constant({ act: "lock" as const }) },
  { weight: 1, arbitrary: fc.constant({ act: "restart" as const }) },
);

/** Plays acts against one lane and checks after every step what must hold at every moment. */
class Witness {
  lane: Lane = emptyLane(CHANNEL);
  now = START;
  linkUp = true;
  readonly asked: Command[] = [];
  readonly latest = new Map<string, Command>();
  readonly written: { seq: number; linkUp: boolean; command: Command }[] = [];

  play(act: Act): void {
    switch (act.act) {
      case "ask": {
        const command = newCommand(order(this.asked.length + 1, act.to, this.now), this.now);
        this.asked.push(command);
        this.latest.set(command.id, command);
        return this.step({ type: "accept", command });
      }
      case "puback":
        return this.step({ type: "puback", id: this.idOf(act.of), attempt: 1, code: act.code });
      case "done":
        return this.step({ type: "done", id: this.idOf(act.of), ok: act.ok, code: null });
      case "report": {
        const id = act.of === null ? null : this.idOf(act.of);
        return this.step({
          type: "report",
          channel: CHANNEL,
          report: { value: act.to, by: act.by, id, live: act.live },
        });
      }
      case "link":
        this.linkUp = act.up;
        return this.step({ type: act.up ? "wake" : "lost" });
      case "pass":
        this.now += act.ms;
        return this.step({ type: "wake" });
      case "lock":
        return this.step({ type: "lock", channel: CHANNEL });
      case "restart":
        return this.take(restore(CHANNEL, openCommands(this.lane), moment(this.now, { linkUp: false })));
    }
  }

  /** Lets time pass, waking the lane whenever it asks, until nothing is open. */
  finish(): void {
    for (let wakes = 0; !isIdle(this.lane); wakes += 1) {
      if (wakes > 100) throw new Error("the lane never comes to rest");
      const due = laneDueAt(this.lane, moment(this.now, { linkUp: this.linkUp }));
      expect(due).toBeLessThan(Number.POSITIVE_INFINITY);
      this.now = Math.max(this.now, due);
      this.step({ type: "wake" });
    }
  }

  private idOf(stepsBack: number) {
    return commandId(Math.max(1, this.asked.length - stepsBack));
  }

  private step(event: LaneEvent): void {
    this.take(advance(this.lane, event, moment(this.now, { linkUp: this.linkUp })));
  }

  private take({ lane, effects }: LaneStep): void {
    for (const effect of effects) {
      if (effect.type === "publish") {
        this.written.push({ seq: effect.command.seq, linkUp: this.linkUp, command: effect.command });
      } else if (effect.type === "changed") {
        const before = this.latest.get(effect.command.id);
        expect(before?.end ?? null, "an ended command never changes").toBeNull();
        expect(stageRank(effect.command.stage)).toBeGreaterThanOrEqual(stageRank(before?.stage as Stage));
        this.latest.set(effect.command.id, effect.command);
      }
    }
    this.lane = lane;
    const open = openCommands(lane).map((command) => command.id);
    expect(new Set(open).size).toBe(open.length);
    const unended = [...this.latest.values()].filter((command) => command.end === null);
    expect(unended.map((command) => command.id).sort()).toEqual([...open].sort());
  }
}

function play(acts: readonly Act[]): Witness {
  const witness = new Witness();
  for (const act of acts) witness.play(act);
  witness.linkUp = true;
  witness.finish();
  return witness;
}

const scripts = fc.array(anyAct, { maxLength: 40 });

describe("a lane under any evidence", () => {
  it("brings every command to exactly one end", () => {
    fc.assert(
      fc.property(scripts, (acts) => {
        const { asked, latest } = play(acts);
        for (const { id } of asked) {
          const ended = latest.get(id);
          expect(ended?.end).not.toBeNull();
          expect(ended?.hops.filter((hop) => hop.kind === "ended")).toHaveLength(1);
        }
      }),
      { numRuns: 2_000 },
    );
  });

  it("never writes with the link down, nor more often than allowed, nor after the time to live", () => {
    fc.assert(
      fc.property(scripts, (acts) => {
        for (const { linkUp, command } of play(acts).written) {
          expect(linkUp).toBe(true);
          expect(command.attempts).toBeLessThanOrEqual(command.policy.attempts);
          expect(command.sentAt).toBeLessThan(command.askedAt + command.policy.ttlMs);
        }
      }),
      { numRuns: 1_000 },
    );
  });

  it("writes in order, so that the newest wins", () => {
    fc.assert(
      fc.property(scripts, (acts) => {
        const seqs = play(acts).written.map(({ seq }) => seq);
        expect(seqs).toEqual([...seqs].sort((one, other) => one - other));
      }),
      { numRuns: 1_000 },
    );
  });

  it("claims replaced and expired only for what was never written, delivered only at the targetStage", () => {
    fc.assert(
      fc.property(scripts, (acts) => {
        const { latest, written } = play(acts);
        const sent = new Set(written.map(({ command }) => command.id));
        for (const command of latest.values()) {
          if (command.end === "replaced" || command.end === "expired") expect(sent.has(command.id)).toBe(false);
          expect(command.end === "delivered").toBe(command.stage === command.policy.targetStage);
        }
      }),
      { numRuns: 1_000 },
    );
  });

  it("ends the newest command delivered when the device answers it in time", () => {
    fc.assert(
      fc.property(scripts, value, (acts, to) => {
        const witness = new Witness();
        for (const act of acts) witness.play(act);
        witness.play({ act: "link", up: true });
        witness.play({ act: "ask", to });
        const asked = witness.asked.at(-1) as Command;
        // Whatever was in flight gets no further attempt: one answer time later it is the newest one's turn.
        for (let wakes = 0; commandIn(witness.lane, "flight")?.id !== asked.id && wakes < 5; wakes += 1) {
          const due = laneDueAt(witness.lane, moment(witness.now));
          witness.play({ act: "pass", ms: Math.max(0, due - witness.now) });
        }
        expect(commandIn(witness.lane, "flight")?.id).toBe(asked.id);
        witness.play({ act: "done", of: 0, ok: true });
        witness.play({ act: "report", of: 0, to, by: "command", live: true });
        expect(witness.latest.get(asked.id)?.end).toBe("delivered");
        expect(isIdle(witness.lane)).toBe(true);
      }),
      { numRuns: 1_000 },
    );
  });
});
