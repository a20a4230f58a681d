/** A scene of what is on now: recalled, it asks for what was seen, and for nothing that nobody saw. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  actionTo,
  captureScene,
  isOfKind,
  type KindName,
  kindNames,
  kindOf,
  parsePattern,
  type Value,
} from "../src/index.ts";

const values = fc.oneof(
  fc.constantFrom<Value>("on", "off", "stop", "between", "pulse", "#ff8800", "#000000", "#ff0000,#00ff00"),
  fc.integer({ min: -100, max: 100 }),
);

/** What the action asks for, as anybody who recalls the scene would read it. */
function asksFor(kind: KindName, action: string, value: number | string | undefined): Value | null {
  const known = kindOf(kind).actions[action];
  if (known?.asks === "to") return known.to;
  if (known?.asks === "level") return value as number;
  return parsePattern(String(value));
}

describe("a captured scene", () => {
  it("asks each channel for the value that it had", () => {
    fc.assert(
      fc.property(fc.constantFrom(...kindNames), values, (kind, state) => {
        fc.pre(isOfKind(state, kindOf(kind)));
        const { sets, left } = captureScene([{ channel: "a/b", kind, state }]);
        expect(sets.length + left.length).toBe(1);
        for (const { action, value } of sets) expect(asksFor(kind, action, value)).toBe(state);
      }),
    );
  });

  it("leaves out what is not known, what is only looked at, and what would keep running", () => {
    const channels = [
      { channel: "a/lamp", kind: "light", state: null },
      { channel: "a/door", kind: "contact", state: "on" },
      { channel: "a/gate", kind: "pulse", state: "pulse" },
      { channel: "a/vent", kind: "motor", state: 100 },
      { channel: "a/blind", kind: "position", state: "stop" },
      { channel: "a/hall", kind: "dimmer", state: 35 },
    ] as const;
    const { sets, left } = captureScene(channels);
    expect(sets).toEqual([{ channel: "a/hall", action: "level", value: 35 }]);
    expect(left.map(({ channel }) => channel)).toEqual(["a/lamp", "a/door", "a/gate", "a/vent", "a/blind"]);
  });

  it("writes the ends of a range as the words that people use", () => {
    expect(actionTo(kindOf("position"), 0)).toBe("close");
    expect(captureScene([{ channel: "a/b", kind: "position", state: 0 }]).sets).toEqual([
      { channel: "a/b", action: "close" },
    ]);
  });
});
