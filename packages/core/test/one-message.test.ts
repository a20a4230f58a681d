/** One message, two meanings: whatever its form, a result that is not a yes proves nothing else. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  bindCodec,
  type ChannelBinding,
  type Command,
  hasReached,
  kindOf,
  newCommand,
  type PayloadForm,
  readMessage,
  type TopicRoles,
  transition,
  type Value,
} from "../src/index.ts";
import { commandId, order, START } from "./support/order.ts";

const id = commandId(3);
const bytes = (text: string) => new TextEncoder().encode(text);
const binding = (kind: "relay" | "dimmer", index = 1): ChannelBinding => ({
  slug: "porch",
  index,
  kind: kindOf(kind),
  reversed: false,
  place: index - 1,
});

/** Written as the makers of such boards document them, not by our own codecs. */
const BOARDS: readonly {
  readonly about: string;
  readonly form: PayloadForm;
  readonly no: (to: Value, how: number) => Uint8Array;
}[] = [
  {
    about: "our own form, result and state in one object",
    form: "json",
    no: (to, how) => bytes(JSON.stringify({ id, ok: how % 2 === 0 ? false : null, code: how, to, by: "command" })),
  },
  {
    about: "our own form, with a result that is neither yes nor no",
    form: "json",
    no: (to, how) => bytes(JSON.stringify({ id, ok: ["maybe", 7, [], {}][how % 4], to })),
  },
  {
    about: "JSON of its own, result beside state",
    form: {
      form: "fields",
      do: { state: "{value}" },
      is: { value: "/state" },
      done: { result: "/result", ok: ["OK"], no: ["ERR"] },
    },
    no: (to, how) => bytes(JSON.stringify({ result: ["ERR", 4, "err", "E17", false, null, {}][how % 7], state: to })),
  },
  {
    about: "JSON of its own with ids, result nested",
    form: {
      form: "fields",
      do: { cmd: "{id}", v: "{value}" },
      is: { value: "/now/v", id: "/cmd" },
      done: { result: "/now/rc", id: "/cmd", ok: [0], no: [] },
    },
    no: (to, how) => bytes(JSON.stringify({ cmd: id, now: { rc: 1 + how, v: to } })),
  },
  {
    about: "text, answers and reports on one topic",
    form: {
      form: "text",
      do: "set {value}",
      is: "state {value}",
      done: { pattern: "{result}", ok: ["OK"], no: ["FAIL"] },
    },
    no: (_to, how) => bytes(["FAIL", "fail", "4", "-1"][how % 4] ?? "FAIL"),
  },
  {
    about: "bytes, answers and reports on one topic",
    form: {
      form: "bytes",
      do: "A0 {index} {value}",
      is: "A1 {index} {value}",
      done: { pattern: "A2 {index} {result}", ok: [0] },
    },
    no: (_to, how) => Uint8Array.from([0xa2, 1, 1 + (how % 255)]),
  },
  {
    about: "command, answer and report described apart",
    form: {
      form: "apart",
      do: { form: "text", words: { on: "1", off: "0" } },
      done: { form: "fields", do: {}, done: { result: "/err", ok: [0], no: [] } },
      is: { form: "fields", do: {}, is: { value: "/out" }, done: { result: "/err", ok: [0], no: [] } },
    },
    no: (to, how) => bytes(JSON.stringify({ err: 1 + how, out: to })),
  },
];

/** What the service does with one message, in the order in which it does it. */
function after(command: Command, form: PayloadForm, kind: "relay" | "dimmer", roles: TopicRoles, payload: Uint8Array) {
  const message = readMessage(bindCodec(form, binding(kind)), roles, payload);
  let next = command;
  if (message?.answer) {
    const { ok, code } = message.answer;
    next = transition(next, { type: "done", ok, code, known: null }, START + 5).next;
  }
  if (message?.report)
    next = transition(next, { type: "report", report: { ...message.report, live: true } }, START + 5).next;
  return next;
}

describe.each(BOARDS.map((board) => [board.about, board] as const))("%s", (_about, { form, no }) => {
  it("never raises a command to acknowledged or confirmed by a result that says no", () => {
    const cases = fc.record({
      kind: fc.constantFrom("relay", "dimmer" as const),
      level: fc.integer({ min: 0, max: 100 }),
      on: fc.boolean(),
      how: fc.nat(200),
      roles: fc.constantFrom({ done: true, is: true }, { done: true, is: false }, { done: false, is: true }),
    });
    fc.assert(
      fc.property(cases, ({ kind, level, on, how, roles }) => {
        const to: Value = kind === "dimmer" ? level : on ? "on" : "off";
        const sent = transition(newCommand(order(3, to, START), START), { type: "send", known: null }, START + 1).next;
        const next = after(sent, form, kind, roles, no(to, how));
        expect(hasReached(next.stage, "acknowledged")).toBe(false);
        expect(next.end).not.toBe("delivered");
      }),
      { numRuns: 400 },
    );
  });

  it("and fails it with that code where the topic carries acknowledgements", () => {
    const sent = transition(newCommand(order(3, "on", START), START), { type: "send", known: null }, START + 1).next;
    const next = after(sent, form, "relay", { done: true, is: true }, no("on", 4));
    if (next.end !== null) expect([next.end, next.reason]).toEqual(["failed", "device-refused"]);
  });
});

describe("one topic for both", () => {
  const form: PayloadForm = {
    form: "fields",
    do: { state: "{value}" },
    is: { value: "/state" },
    done: { result: "/result", ok: ["OK"], no: ["ERR"] },
  };
  const both = { done: true, is: true };
  const codec = bindCodec(form, binding("relay"));

  it("a yes with a state is both", () => {
    expect(readMessage(codec, both, bytes('{"result":"OK","state":"on"}'))).toMatchObject({
      answer: { ok: true },
      report: { value: "on" },
    });
  });

  it("a state without a result is a report, and no acknowledgement", () => {
    expect(readMessage(codec, both, bytes('{"state":"off"}'))).toMatchObject({
      answer: null,
      report: { value: "off" },
    });
  });

  it("a no with its code is a refusal, and its state is left alone", () => {
    expect(readMessage(codec, both, bytes('{"result":4,"state":"on"}'))).toEqual({
      answer: { id: null, ok: false, code: 4 },
      report: null,
      garbled: null,
      unattributed: false,
    });
  });

  it("a result that nobody can read takes its state with it", () => {
    const read = readMessage(codec, both, bytes('{"result":"BANANA","state":"on"}'));
    expect([read?.answer, read?.report]).toEqual([null, null]);
    expect(read?.garbled).toContain("neither a yes nor a no");
  });
});
