/**
 * The rules for what needs care, under any evidence in any order: a pulse is never written twice, a stop is never
 * given up by itself, nothing older is written after something newer, and a shared lane keeps its channels apart.
 */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  advance,
  type ChannelId,
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
  restore,
} from "../src/index.ts";
import { CHANNEL, commandId, moment, order, START } from "./support/order.ts";

const OTHER = 8 as ChannelId;

interface Ask {
  act: "ask";
  channel: ChannelId;
  care: "plain" | "urgent" | "once" | "reportOnly";
  /** Least time between two writes of its device, ms: one that waits for it waits beside what is watched. */
  minGapMs: number;
}
type Act =
  | Ask
  | { act: "done"; of: number | null; ok: boolean }
  | { act: "report"; of: number; on: boolean }
  | { act: "puback"; of: number; code: number }
  | { act: "kept"; of: number }
  | { act: "link"; up: boolean }
  | { act: "pass"; ms: number }
  | { act: "restart" };

const recent = fc.nat({ max: 4 });
const anyAct: fc.Arbitrary<Act> = fc.oneof(
  {
    weight: 5,
    arbitrary: fc.record({
      act: fc.constant("ask" as const),
      channel: fc.constantFrom(CHANNEL, OTHER),
      care: fc.constantFrom(
        "plain" as const,
        "plain" as const,
        "urgent" as const,
        "once" as const,
        "reportOnly" as const,
        "reportOnly" as const,
      ),
      minGapMs: fc.constantFrom(0, 0, 30_000),
    }),
  },
  { weight: 3, arbitrary: fc.record({ act: fc.constant("done" as const), of: fc.option(recent), ok: fc.boolean() }) },
  { weight: 3, arbitrary: fc.record({ act: fc.constant("report" as const), of: recent, on: fc.boolean() }) },
  {
    weight: 2,
    arbitrary: fc.record({ act: fc.constant("puback" as const), of: recent, code: fc.constantFrom(0, 16) }),
  },
  { weight: 3, arbitrary: fc.record({ act: fc.constant("kept" as const), of: recent }) },
  { weight: 2, arbitrary: fc.record({ act: fc.constant("link" as const), up: fc.boolean() }) },
  { weight: 4, arbitrary: fc.record({ act: fc.constant("pass" as const), ms: fc.nat({ max: 8_000 }) }) },
  { weight: 1, arbitrary: fc.constant({ act: "restart" as const }) },
);

class Witness {
  lane: Lane = emptyLane(CHANNEL);
  now = START;
  linkUp = true;
  readonly asked: Command[] = [];
  readonly latest = new Map<string, Command>();
  readonly written: Command[] = [];
  /** Those whose sending the journal has: only they may be written, if they may be written once. */
  readonly kept = new Set<string>();

  play(act: Act): void {
    switch (act.act) {
      case "ask":
        return this.ask(act);
      case "done":
        return this.step({ type: "done", id: act.of === null ? null : this.idOf(act.of), ok: act.ok, code: null });
      case "report": {
        const channel = this.asked.at(-1 - act.of)?.channel ?? CHANNEL;
        const report = { value: act.on ? "on" : "off", by: null, id: null, live: true } as const;
        return this.step({ type: "report", channel, report });
      }
      case "puback":
        return this.step({ type: "puback", id: this.idOf(act.of), attempt: 1, code: act.code });
      case "kept":
        this.kept.add(this.idOf(act.of));
        return this.step({ type: "sending-kept", id: this.idOf(act.of) });
      case "link":
        this.linkUp = act.up;
        return this.step({ type: act.up ? "wake" : "lost" });
      case "pass":
        this.now += act.ms;
        return this.step({ type: "wake" });
      case "restart":
        return this.take(restore(CHANNEL, openCommands(this.lane), moment(this.now, { linkUp: false })));
    }
  }

  /** Lets time pass until only urgent ones are left. */
  finish(): void {
    this.linkUp = true;
    for (let wakes = 0; openCommands(this.lane).some((command) => !command.urgent); wakes += 1) {
      if (wakes > 200) throw new Error("the lane never comes to rest");
      this.now = Math.max(this.now, Math.min(laneDueAt(this.lane, moment(this.now)), this.now + 40_000));
      this.step({ type: "wake" });
    }
  }

  private ask({ channel, care, minGapMs }: Ask): void {
    const reportOnly = care === "reportOnly";
    const flags = { channel, anonymous: !reportOnly, urgent: care === "urgent", once: care === "once", reportOnly };
    const to = this.asked.length % 2 ? "on" : "off";
    const command = newCommand(order(this.asked.length + 1, to, this.now, { minGapMs }, flags), this.now);
    this.asked.push(command);
    this.latest.set(command.id, command);
    this.step({ type: "accept", command });
  }

  private idOf(stepsBack: number) {
    return commandId(Math.max(1, this.asked.length - stepsBack));
  }

  private step(event: LaneEvent): void {
    this.take(advance(this.lane, event, moment(this.now, { linkUp: this.linkUp })));
  }

  private take({ lane, effects }: LaneStep): void {
    for (const effect of effects) {
      if (effect.type === "publish") this.written.push(effect.command);
      else if (effect.type === "changed") {
        expect(this.latest.get(effect.command.id)?.end ?? null).toBeNull();
        this.latest.set(effect.command.id, effect.command);
      }
    }
    this.lane = lane;
    const flying = lane.slots.filter((slot) => slot.place === "flight");
    // Beside a stop that overtook it, at most the one that it overtook on another channel.
    expect(flying.filter(({ command }) => !command.urgent).length).toBeLessThanOrEqual(1);
    for (const channel of [CHANNEL, OTHER]) {
      for (const place of ["flight", "waiting", "watched"] as const) {
        const there = lane.slots.filter((one) => one.place === place && one.command.channel === channel);
        expect(there.length).toBeLessThanOrEqual(1);
        expect(commandIn(lane, place, channel)).toBe(there[0]?.command ?? null);
      }
    }
  }
}

const scripts = fc.array(anyAct, { maxLength: 45 });

function play(acts: readonly Act[]): Witness {
  const witness = new Witness();
  for (const act of acts) witness.play(act);
  return witness;
}

describe("what needs care, under any evidence", () => {
  it("a pulse is written once at most, and never before the journal has it", () => {
    fc.assert(
      fc.property(scripts, (acts) => {
        const { written, kept } = play(acts);
        const once = written.filter((command) => command.once);
        expect(new Set(once.map(({ id }) => id)).size).toBe(once.length);
        for (const { id } of once) expect(kept.has(id)).toBe(true);
      }),
      { numRuns: 2_000 },
    );
  });

  it("a stop ends only by its proof, by something newer, or by a person", () => {
    fc.assert(
      fc.property(scripts, (acts) => {
        const witness = play(acts);
        witness.finish();
        for (const command of witness.latest.values()) {
          // Proven, or a newer one took its place: after it was written, or before. The script decides which.
          if (command.urgent && command.end !== null)
            expect(["delivered", "overtaken", "replaced"]).toContain(command.end);
        }
        for (const { id } of openCommands(witness.lane)) {
          const { lane } = advance(witness.lane, { type: "close", id, note: "Ines" }, moment(witness.now));
          witness.lane = lane;
        }
        expect(isIdle(witness.lane)).toBe(true);
      }),
      { numRuns: 1_000 },
    );
  });

  it("of each channel nothing older is written after something newer, and everything else ends", () => {
    fc.assert(
      fc.property(scripts, (acts) => {
        const witness = play(acts);
        witness.finish();
        for (const channel of [CHANNEL, OTHER]) {
          const seqs = witness.written.filter((one) => one.channel === channel).map(({ seq }) => seq);
          expect(seqs).toEqual([...seqs].sort((one, other) => one - other));
        }
        for (const command of witness.latest.values()) if (!command.urgent) expect(command.end).not.toBeNull();
      }),
      { numRuns: 1_000 },
    );
  });
});
