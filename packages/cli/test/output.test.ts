/** What a terminal is shown: text, and our own colours; nothing that comes from elsewhere steers it. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { visible } from "../src/output.ts";

describe("what is printed", () => {
  it.each([
    ["\u001b[1mbold\u001b[22m", "\u001b[1mbold\u001b[22m"],
    ["a\u001b[2Jb", "a\\u001b[2Jb"],
    ["\u001b]0;title\u0007", "\\u001b]0;title\\u0007"],
    ["\u009b31m", "\\u009b31m"],
    ["\u001b[35mnot ours", "\\u001b[35mnot ours"],
    ["one\ntwo\tthree", "one\ntwo\tthree"],
    ["over\rwritten", "over\\u000dwritten"],
    ["gnp\u202e.exe", "gnp\\u202e.exe"],
    ["Küche 35 % ●──○", "Küche 35 % ●──○"],
  ])("%j is shown as %j", (text, shown) => {
    expect(visible(text)).toBe(shown);
  });

  it("never holds a control character but for line ends, tabs and our colours", () => {
    fc.assert(
      fc.property(fc.string({ unit: "binary", maxLength: 60 }), (text) => {
        const left = [0, 1, 2, 22, 31, 33, 39].reduce(
          (rest, code) => rest.replaceAll(`\u001b[${code}m`, ""),
          visible(text).replace(/[\n\t]/g, ""),
        );
        expect(left).not.toMatch(/\p{Cc}|[\u202a-\u202e\u2066-\u2069]/u);
      }),
    );
  });
});
