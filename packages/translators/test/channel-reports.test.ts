/** A report names a command only when the device has taken that command, and was seen after it. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { ChannelReports, type Report, type Seen } from "../src/channel-reports.ts";
import type { FarAnswer } from "../src/device-driver.ts";

const TAKEN: FarAnswer = { ok: true, is: null };
const REFUSED: FarAnswer = { ok: false, code: 705, why: "it answered ERR" };
const UNKNOWN: FarAnswer = { ok: null, why: "no answer" };
const on: Seen = { value: "on", by: null };
const off: Seen = { value: "off", by: null };

function channelThatIsOff(): ChannelReports {
  const channel = new ChannelReports();
  channel.see(off);
  return channel;
}

describe("a channel's reports", () => {
  it("name the command that the device took, once, also when the channel was so before", () => {
    const channel = channelThatIsOff();
    channel.begin();
    expect(channel.answered({ to: "off", id: "c1" }, TAKEN)).toEqual([]);
    expect(channel.see(off)).toEqual([{ value: "off", by: "command", id: "c1" }]);
    expect(channel.see(off)).toEqual([]);
  });

  it("never name a command that the device refused, although a poll showed just what it wanted", () => {
    const channel = channelThatIsOff();
    channel.begin();
    channel.answered({ to: "on", id: "c1" }, TAKEN);
    channel.see(on);
    channel.begin();
    expect(channel.see(on)).toEqual([]);
    expect(channel.answered({ to: "on", id: "c2" }, REFUSED)).toEqual([]);
    expect(channel.see(on)).toEqual([]);
  });

  it("wait for the answer before they say whose doing it was", () => {
    const channel = channelThatIsOff();
    channel.begin();
    expect(channel.see(on)).toEqual([]);
    expect(channel.answered({ to: "on", id: "c1" }, UNKNOWN)).toEqual([{ value: "on", by: "command", id: "c1" }]);
  });

  it("tell of a hand that came before the answer, then of the answer", () => {
    const channel = channelThatIsOff();
    channel.begin();
    channel.see({ value: "on", by: "hand" });
    channel.see(off);
    expect(channel.answered({ to: "off", id: "c1" }, { ok: true, is: "off" })).toEqual([
      { value: "on", by: "hand", id: null },
      { value: "off", by: "command", id: "c1" },
    ]);
  });

  it("say timer for the translator's own setpoint, and only once the channel was seen so", () => {
    const channel = new ChannelReports();
    channel.see(on);
    channel.begin();
    expect(channel.answered({ to: "off", id: null }, TAKEN)).toEqual([]);
    expect(channel.see(off)).toEqual([{ value: "off", by: "timer", id: null }]);
  });

  it("say nothing of a channel that was never seen", () => {
    expect(new ChannelReports().now).toEqual([]);
    expect(channelThatIsOff().now).toEqual([{ value: "off", by: null, id: null }]);
  });

  it("end with what was seen last, and name only commands that were taken", () => {
    const answer = fc.constantFrom(TAKEN, REFUSED, UNKNOWN);
    const value = fc.constantFrom("on" as const, "off" as const);
    const seen = fc.record({ value, by: fc.constantFrom(null, "hand" as const) });
    const command = fc.record({ to: value, answer, meanwhile: fc.array(seen, { maxLength: 4 }) });
    const step = fc.oneof(
      seen.map((one) => ({ seen: one })),
      command.map((one) => ({ command: one })),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 20 }), (steps) => {
        const channel = new ChannelReports();
        const reports: Report[] = [];
        const taken = new Map<string, string>();
        let last: string | null = null;
        steps.forEach((one, index) => {
          if ("seen" in one) {
            reports.push(...channel.see(one.seen));
            last = one.seen.value;
            return;
          }
          const { to, answer: how, meanwhile } = one.command;
          channel.begin();
          for (const each of meanwhile) reports.push(...channel.see(each));
          if (how.ok !== false) taken.set(`c${index}`, to);
          reports.push(...channel.answered({ to, id: `c${index}` }, how));
          last = meanwhile.at(-1)?.value ?? last;
        });
        expect(reports.at(-1)?.value ?? null).toBe(last);
        for (const { id, value: shown } of reports) if (id !== null) expect(taken.get(id)).toBe(shown);
      }),
    );
  });
});
