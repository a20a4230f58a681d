/** The life of one command: the sequences that each rule exists for. */
import { describe, expect, it } from "vitest";
import { type Command, type CommandEvent, newCommand, type Report, transition, type Value } from "../src/index.ts";
import { order, START } from "./support/order.ts";

const live = (report: Partial<Report> = {}): CommandEvent => ({
  type: "report",
  report: { value: "on", by: null, id: null, live: true, ...report },
});
const done: CommandEvent = { type: "done", ok: true, code: 1, known: null };
const puback = (code: number, attempt = 1): CommandEvent => ({ type: "puback", attempt, code });
const send: CommandEvent = { type: "send", known: null };

function play(...events: CommandEvent[]): Command {
  return playFrom(newCommand(order(1, "on", START), START), ...events);
}

function playFrom(command: Command, ...events: CommandEvent[]): Command {
  return events.reduce((now, event, index) => transition(now, event, START + index + 1).next, command);
}

const summary = ({ stage, end, reason }: Command) => [stage, end, reason];

describe("rising", () => {
  it.each([
    ["in order", [send, puback(0), done, live()]],
    ["acknowledged before the broker's receipt", [send, done, puback(0), live()]],
    ["reported by its id before anything else", [send, live({ id: order(1, "on", 0).id })]],
    ["receipt last", [send, done, live(), puback(0)]],
  ])("%s: delivered", (_title, events) => {
    expect(summary(play(...events))).toEqual(["confirmed", "delivered", null]);
  });

  it("keeps a null time for a hop that was never seen", () => {
    const command = play(send, live({ id: order(1, "on", 0).id }));
    expect([command.publishedAt, command.acknowledgedAt, command.confirmedAt]).toEqual([null, null, START + 2]);
  });

  it("never falls: a late receipt leaves an acknowledged command acknowledged", () => {
    const command = play(send, done, puback(0));
    expect(command.stage).toBe("acknowledged");
    expect(command.publishedAt).toBe(START + 3);
  });

  it("ends once: nothing changes an ended command", () => {
    const ended = play(send, puback(0), live());
    for (const event of [done, puback(0), puback(135), live({ value: "off" }), { type: "replace" } as const]) {
      expect(transition(ended, event, START + 99)).toEqual({ next: ended, effects: [] });
    }
  });
});

describe("reading", () => {
  const read = (...events: CommandEvent[]) => playFrom(newCommand(order(1, "read", START), START), ...events);

  it.each([
    ["whatever the device says after it was asked", [send, puback(0), live({ value: 35 })], "delivered"],
    [
      "also in the words of an older command",
      [send, puback(0), live({ by: "command", id: order(9, "on", 0).id })],
      "delivered",
    ],
    ["also by hand", [send, puback(0), live({ by: "hand" })], "delivered"],
    ["not what came before the broker had the question", [send, live({ value: 35 })], null],
    ["not what lay retained", [send, live({ live: false })], null],
    ["not what waited while the link was down", [send, live({ waited: true, id: order(9, "on", 0).id })], null],
    ["not what it said before it was asked", [live()], null],
  ] as const)("%s", (_title, events, end) => {
    expect(read(...events).end).toBe(end);
  });

  it("without a word it claims nothing but that", () => {
    expect(summary(read(send, puback(0), { type: "give-up" }))).toEqual(["published", "unanswered", "no-report"]);
  });

  it("reads back what the device, which never answers, seems to be already", () => {
    const quiet = newCommand(order(1, "on", START, { reports: "onChange" }, { readsBack: true }), START);
    const asks = (known: Value | null) =>
      transition(quiet, { type: "send", known }, START).effects.some(
        (effect) => effect.type === "publish" && effect.asks,
      );
    expect([asks("on"), asks("off"), asks(null)]).toEqual([true, false, false]);
    expect(playFrom(quiet, { type: "send", known: "on" }, puback(0), live()).end).toBe("delivered");
  });
});

describe("what confirms", () => {
  it.each([
    ["a report without id after the broker has taken the write", [send, puback(0), live()], true],
    ["a report without id before that: the line may have stood still", [send, live()], false],
    ["a report without id on the next connection", [send, { type: "lost" }, live()], true],
    ["a report without id after nobody listened", [send, puback(0), send, puback(16, 2), live()], false],
    ["a report that names this command", [send, live({ by: "command", id: order(1, "on", 0).id })], true],
    ["a report that names another", [send, live({ by: "command", id: order(2, "on", 0).id })], false],
    ["a retained report", [send, live({ live: false })], false],
    ["a report that waited at the broker while the link was down", [send, live({ waited: true })], false],
    [
      "one that waited and names this command",
      [send, live({ by: "command", id: order(1, "on", 0).id, waited: true })],
      true,
    ],
    ["a hand at the wall", [send, live({ by: "hand" })], false],
    ["a power-up", [send, live({ by: "boot" })], false],
    ["a report before the write", [live()], false],
    ["another value", [send, live({ value: "off" })], false],
  ] as [string, CommandEvent[], boolean][])("%s", (_title, events, confirmed) => {
    expect(play(...events).stage === "confirmed").toBe(confirmed);
  });
});

describe("ends", () => {
  it.each([
    ["refused by the device", [send, { type: "done", ok: false, code: 4, known: null }], "failed", "device-refused"],
    ["nobody listens, on the first write", [send, puback(16)], "failed", "nobody-listens"],
    [
      "nobody listens any more, after a write that was received",
      [send, puback(0), send, puback(16, 2)],
      "unanswered",
      "nobody-listens",
    ],
    ["not authorised at the broker", [send, puback(135)], "failed", "broker-refused"],
    ["replaced before it was written", [{ type: "replace" }], "replaced", "replaced-before-sending"],
    ["replaced after it was written", [send, { type: "replace" }], "overtaken", "replaced-after-sending"],
    ["too old before it was written", [{ type: "expire" }], "expired", "never-sent-in-time"],
    ["no receipt", [send, { type: "give-up" }], "unanswered", "no-broker-receipt"],
    ["no acknowledgement", [send, puback(0), { type: "give-up" }], "unanswered", "no-acknowledgement"],
    ["acknowledged, no report", [send, done, { type: "give-up" }], "unanswered", "no-report"],
    [
      "acknowledged, then contradicted",
      [send, done, live({ value: "off" }), { type: "give-up" }],
      "failed",
      "contradicted",
    ],
  ] as [string, CommandEvent[], string, string][])("%s", (_title, events, end, reason) => {
    const command = play(...events);
    expect([command.end, command.reason]).toEqual([end, reason]);
  });

  it("a refusal by the broker means nothing once the device itself has answered", () => {
    expect(summary(play(send, done, puback(135)))).toEqual(["acknowledged", null, null]);
  });

  it("a contradiction that is taken back is forgotten", () => {
    const command = play(send, done, live({ value: "off" }), live({ by: "hand" }), { type: "give-up" });
    expect(command.reason).toBe("no-report");
  });

  it("after a restart nothing is claimed never to have gone out", () => {
    const recovered = { ...newCommand(order(1, "on", START), START), maybeSent: true };
    expect(summary(playFrom(recovered, { type: "expire" }))).toEqual(["accepted", "unanswered", "sending-uncertain"]);
    expect(summary(playFrom(recovered, { type: "replace" }))).toEqual([
      "accepted",
      "overtaken",
      "replaced-after-sending",
    ]);
  });
});

describe("a device that only reports changes", () => {
  const told = (known: "on" | "off" | null): CommandEvent => ({ type: "done", ok: true, code: null, known });
  const onChange = newCommand(order(1, "on", START, { reports: "onChange" }), START);

  it("that said before that it is so needs only to acknowledge", () => {
    const command = playFrom(onChange, send, told("on"));
    expect(summary(command)).toEqual(["confirmed", "delivered", null]);
    expect(command.hops.find((hop) => hop.kind === "confirmed")?.already).toBe(true);
  });

  it.each([
    ["it said otherwise", "off"],
    ["nobody can say what it is", null],
  ] as const)("is waited for when %s", (_title, known) => {
    expect(summary(playFrom(onChange, send, told(known)))).toEqual(["acknowledged", null, null]);
    expect(summary(playFrom(onChange, send, told(known), live()))).toEqual(["confirmed", "delivered", null]);
  });

  it("one that always reports is waited for all the same", () => {
    const always = newCommand(order(1, "on", START), START);
    expect(summary(playFrom(always, send, told("on")))).toEqual(["acknowledged", null, null]);
  });
});

describe("a target stage below confirmed", () => {
  it.each([
    ["published", [send, puback(0)]],
    ["acknowledged", [send, puback(0), done]],
  ] as const)("%s completes there", (targetStage, events) => {
    const command = newCommand(order(1, "on", START, { targetStage }), START);
    expect(summary(playFrom(command, ...events))).toEqual([targetStage, "delivered", null]);
  });
});
