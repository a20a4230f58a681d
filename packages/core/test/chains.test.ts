/** What ties a request to the calls before and after it: trace context, and the menus of telephones. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  type KindName,
  type Menu,
  NO_ARRIVAL,
  payloadOf,
  phraseAt,
  plainDocument,
  type RequestId,
  readPayload,
  readTraceparent,
  roleAt,
  setpointAsk,
  shortened,
  spoken,
  traceIdIn,
  traceIdOf,
  traceparentFor,
} from "../src/index.ts";
import { commandId } from "./support/order.ts";

const requestId = (number: number) => commandId(number) as string as RequestId;
const TRACE = "4bf92f3577b34da6a3ce929d0e0e4736";
const CAME = `00-${TRACE}-00f067aa0ba902b7-01`;

describe("traceparent", () => {
  it.each([
    [CAME, CAME],
    [` ${CAME} `, CAME],
    [`cc-${TRACE}-00f067aa0ba902b7-01-what-comes-later`, CAME],
    [`00-${TRACE}-00f067aa0ba902b7-01-more`, null],
    [`ff-${TRACE}-00f067aa0ba902b7-01`, null],
    [`00-${"0".repeat(32)}-00f067aa0ba902b7-01`, null],
    [`00-${TRACE}-${"0".repeat(16)}-01`, null],
    [CAME.toUpperCase(), null],
    ["", null],
    [undefined, null],
    [[CAME, CAME], null],
  ])("%s is read as %s", (text, read) => {
    expect(readTraceparent(text)).toBe(read);
  });

  it("that goes out can be read by others, and leads back to the request", () => {
    const hex = (length: number) => fc.stringMatching(new RegExp(`^[0-9a-f]{${length}}$`));
    const came = fc.tuple(hex(32), hex(16), hex(2)).map((parts) => `00-${parts.join("-")}`);
    fc.assert(
      fc.property(fc.option(came), fc.integer({ min: 1, max: 99 }), (text, number) => {
        const before = readTraceparent(text);
        const out = traceparentFor(requestId(number), before, commandId(number));
        expect(readTraceparent(out)).toBe(out);
        expect(traceIdIn(out)).toBe(traceIdOf(requestId(number), before));
        if (before !== null) expect(out.slice(-2)).toBe(before.slice(-2));
        else expect(traceIdIn(out)).toBe(requestId(number).replaceAll("-", ""));
      }),
    );
  });

  it("whatever comes, never fails", () => {
    fc.assert(fc.property(fc.anything(), (text) => void readTraceparent(text)));
  });
});

describe("the keys of a telephone", () => {
  const menu: Menu = {
    say: "One for lights, nine for the gate.",
    keys: {
      "1": { menu: { say: "One on, two off.", keys: { "1": { phrase: "all on" }, "2": { phrase: "all off" } } } },
      "9": { phrase: "gate pulse" },
    },
  };

  it.each([
    ["9", "gate pulse"],
    ["12", "all off"],
    ["129", "gate pulse"],
    ["1", null],
    ["13", null],
    ["7", null],
    ["", null],
    ["constructor", null],
  ])("%s asks for %s", (digits, phrase) => {
    expect(phraseAt(menu, digits)).toBe(phrase);
    expect(spoken("keypad", { menu }, { ...NO_ARRIVAL, digits }).text).toBe(phrase);
  });
});

describe("what is rehearsed before it has come", () => {
  it("is said as the kind would say it", () => {
    const fields = { target: 'the "old" porch', argument: "on" };
    expect(spoken("call", {}, { ...NO_ARRIVAL, fields }).text).toBe('"the  old  porch" on');
    expect(spoken("hook", {}, { ...NO_ARRIVAL, fields }).text).toBeNull();
    expect(spoken("chat", {}, { ...NO_ARRIVAL, text: "as it is" }).text).toBe("as it is");
  });
});

describe("a sender's role", () => {
  const roles = { "hall/ana": "engineer", "hall/*": "operator", "*/eve": "user" } as const;
  it.each([
    ["hall", "ana", "engineer"],
    ["hall", "ben", "operator"],
    ["hall", "eve", "operator"],
    ["yard", "ana", "user"],
    [null, null, "user"],
  ])("in %s of %s is %s", (room, sender, role) => {
    expect(roleAt(roles, { ...NO_ARRIVAL, room, sender })).toBe(role);
    expect(roleAt(undefined, { ...NO_ARRIVAL, room, sender })).toBe("user");
  });
});

describe("what is kept of an arrival", () => {
  it("is plain text all through, and nothing else of it changes", () => {
    expect(plainDocument({ "a\0": ["b\ud800", 1, null, { c: true }] })).toEqual({ "a ": ["b ", 1, null, { c: true }] });
    fc.assert(
      fc.property(fc.jsonValue(), (document) => {
        const plain = plainDocument(document);
        expect(JSON.stringify(plain)).not.toMatch(/\\u0000|\\ud[89a-f]/i);
        expect(plainDocument(plain)).toEqual(plain);
      }),
    );
  });

  it("is shown no longer than there is room", () => {
    expect(shortened("abcdefgh", 5)).toBe("abcde … and 3 more characters");
    expect(shortened("abcde", 5)).toBe("abcde");
  });
});

describe("a setpoint, asked for again", () => {
  it.each([
    ["off", { action: "off" }],
    ["stop", { action: "stop" }],
    [35, { action: "level", value: 35 }],
    [0, { action: "level", value: 0 }],
    ["#ff8800", { action: "colour", value: "#ff8800" }],
    ["#ff0000,#0000ff", { action: "pattern", value: "#ff0000,#0000ff" }],
  ] as const)("%s", (to, ask) => {
    expect(setpointAsk(to)).toEqual(ask);
  });

  it("is what a payload of any form is taken for", () => {
    const form = { form: "text", colours: "hex" } as const;
    const read = (kind: KindName, text: string) => readPayload({ kind, form }, payloadOf({ ...NO_ARRIVAL, text }));
    expect(read("lamps", "ff0000,0000ff")).toEqual({
      to: "#ff0000,#0000ff",
      action: "pattern",
      value: "#ff0000,#0000ff",
    });
    expect(read("colour", "ff8800")).toMatchObject({ action: "colour", value: "#ff8800" });
    expect(read("relay", "on")).toEqual({ to: "on", action: "on", value: "" });
    expect(read("dimmer", "what")).toBeNull();
    expect(payloadOf({ ...NO_ARRIVAL, hex: "a001" })).toEqual(Uint8Array.of(0xa0, 0x01));
  });
});
