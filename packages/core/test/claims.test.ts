/** What may be called stopped, and what an acknowledgement without a name may prove: under any sequence, compared with a slow, honest account. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Bench } from "./support/bench.ts";

describe("what is told to stop", () => {
  const policy = { settleMs: 4_000, stillMs: 1_000 };
  const reports = fc.array(
    fc.record({ position: fc.integer({ min: 0, max: 3 }), afterMs: fc.integer({ min: 1, max: 1_500 }) }),
    { maxLength: 12 },
  );

  it("is confirmed only by the same position, reported again a stated time later with no other between", () => {
    fc.assert(
      fc.property(reports, (said) => {
        const bench = new Bench().accept(1, "stop", { urgent: true }, policy).done(1);
        let since = { position: -1, at: 0 };
        for (const { position, afterMs } of said) {
          bench.now += afterMs;
          const stands = since.position === position && bench.now - since.at >= policy.stillMs;
          if (since.position !== position) since = { position, at: bench.now };
          bench.is(position);
          expect([said, bench.ended]).toEqual([said, stands ? ["1 delivered"] : []]);
          if (stands) return;
        }
      }),
    );
  });

  it("is confirmed by the device's word for it", () => {
    expect(new Bench().accept(1, "stop", { urgent: true }, policy).done(1).is("stop").ended).toEqual(["1 delivered"]);
  });

  it("is not confirmed on its way", () => {
    const bench = new Bench().accept(1, "stop", { urgent: true }, policy).done(1);
    expect(bench.is("moving").is("on").is("between").ended).toEqual([]);
  });
});

/** The device's side: it owes an answer for each write, and gives them in order, however late. */
class LateDevice {
  readonly bench = new Bench();
  readonly acknowledged = new Set<number>();
  private owed: number[] = [];
  private seq = 0;

  act(what: "ask" | "answer" | "wake"): void {
    const { bench } = this;
    const before = bench.written.length;
    if (what === "ask") this.ask();
    else if (what === "wake") bench.wake();
    else this.answer();
    this.owed.push(...bench.written.slice(before));
  }

  private ask(): void {
    this.seq += 1;
    const to = this.seq % 2 ? "on" : "off";
    this.bench.accept(this.seq, to, { anonymous: true }, { targetStage: "acknowledged" });
  }

  private answer(): void {
    const [oldest, ...others] = this.owed;
    if (oldest === undefined) return;
    this.owed = others;
    this.acknowledged.add(oldest);
    this.bench.done(null);
  }
}

describe("acknowledgements without a name that come late", () => {
  it("prove no command but the one that they answer", () => {
    // All within a minute: later than that no answer is waited for.
    const acts = fc.array(fc.constantFrom("ask" as const, "answer" as const, "wake" as const), { maxLength: 16 });
    fc.assert(
      fc.property(acts, (all) => {
        const device = new LateDevice();
        for (const one of all) device.act(one);
        const delivered = device.bench.ended.filter((one) => one.endsWith("delivered"));
        expect([all, delivered.filter((one) => !device.acknowledged.has(Number.parseInt(one, 10)))]).toEqual([all, []]);
      }),
    );
  });
});
