/** Typed lines, in whatever pieces and with whatever ends they come. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { LineSplitter } from "../src/index.ts";

const bytes = (text: string) => new TextEncoder().encode(text);
const linesOf = (...pieces: (string | number[])[]) => {
  const splitter = new LineSplitter(40);
  return pieces.flatMap((piece) => splitter.push(typeof piece === "string" ? bytes(piece) : Uint8Array.from(piece)));
};

describe("typed lines", () => {
  it.each([
    ["LF", ["one\ntwo\n"]],
    ["CR", ["one\rtwo\r"]],
    ["CR LF, cut between the two", ["one\r", "\ntwo\r\n"]],
    ["CR NUL, as Telnet has it", [[...bytes("one"), 13, 0, ...bytes("two"), 13, 0]]],
    ["a mix", ["one\r\ntw", "o\r"]],
    ["what was typed wrong and taken back", ["onx\u0008e\ntwoé\u007f\n"]],
    ["Telnet's negotiation between", [[255, 253, 1, ...bytes("one"), 255, 250, 24, 0, 255, 240, 10], "two\n"]],
  ] as [string, (string | number[])[]][])("end in %s", (_name, pieces) => {
    expect(linesOf(...pieces)).toEqual([{ text: "one" }, { text: "two" }]);
  });

  it("keep an empty one: it asks for help", () => {
    expect(linesOf("\r\n\r\n")).toEqual([{ text: "" }, { text: "" }]);
  });

  it("are dropped whole when they are too long or no text, and the next is read", () => {
    expect(linesOf(`${"x".repeat(41)}\nnext\n`)).toEqual([{ dropped: "too-long" }, { text: "next" }]);
    expect(linesOf([0xc3, 0x28, 10], "next\n")).toEqual([{ dropped: "not-text" }, { text: "next" }]);
  });

  it("hold no control character that could forge a terminal", () => {
    expect(linesOf("a\u001b[2Jb\n")).toEqual([{ text: "a[2Jb" }]);
  });

  it("do not depend on how they are cut", () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), fc.nat(299), (all, cut) => {
        const whole = new LineSplitter(40);
        const parts = new LineSplitter(40);
        const cutLines = [...parts.push(all.slice(0, cut)), ...parts.push(all.slice(cut))];
        expect(cutLines).toEqual(whole.push(all));
      }),
    );
  });
});
