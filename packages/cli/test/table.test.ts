/** Tables at every width: no line of one is wider than the terminal, and nothing but columns that may be left out is lost. */
import fc from "fast-check";
import stringWidth from "string-width";
import { describe, expect, it } from "vitest";
import { table, unbroken } from "../src/table.ts";

const HEAD = ["no.", "room", "channel", "state", "last command", "requested by", "address"];
const ROWS = [
  ["1", "Wren", "Porch lantern", "on", unbroken("●──●──●──●  45 ms"), "Ines, 15 s ago", "alder-row/wren/porch"],
  [
    "11",
    "Propagation bay",
    "Air temperature",
    "27.1 °C (retained, age unknown)",
    "never commanded",
    "",
    "glasshouse/bay-air/t",
  ],
];

describe.each([60, 80, 100, 200])("at %i columns", (width) => {
  it("no line is wider", () => {
    const drawn = table(HEAD, ROWS, [0], { optional: [6, 5], width });
    for (const line of drawn.split("\n")) expect(stringWidth(line)).toBeLessThanOrEqual(width);
    expect(drawn).toContain("●──●──●──●  45 ms");
  });
});

it("leaves columns out only where it must, and says which", () => {
  expect(table(HEAD, ROWS, [0], { optional: [6, 5], width: 200 })).not.toContain("Left out");
  expect(table(HEAD, ROWS, [0], { optional: [6, 5], width: 115 })).toMatch(/Left out: address\. See --json\.$/);
});

it("without a terminal is as wide as it is", () => {
  expect(table(HEAD, ROWS, [0], { optional: [6, 5], width: null }).split("\n")).toHaveLength(3);
});

it("becomes a list a row where columns would be too narrow", () => {
  const drawn = table(["a", "b", "c"], [["alder-row/wren/porch-lantern", "finch/landing-light", "x y"]], [], {
    width: 30,
  });
  expect(drawn.split("\n")).toEqual(["a  alder-row/wren/porch-lantern", "b  finch/landing-light", "c  x y"]);
});

it("loses no word of any cell, whatever stands in it and however narrow it is", () => {
  const word = fc.stringMatching(/^[a-z0-9äöü€漢字]{1,18}$/u);
  const cell = fc.array(word, { maxLength: 6 }).map((words) => words.join(" "));
  const cells = fc.tuple(cell, cell, cell, cell);
  fc.assert(
    fc.property(fc.array(cells, { maxLength: 4 }), fc.integer({ min: 20, max: 160 }), (rows, width) => {
      const drawn = table(["one", "two", "three", "four"], rows, [], { width });
      const isTable = drawn.split("\n")[0]?.startsWith("one") === true && /\btwo\b/.test(drawn.split("\n")[0] ?? "");
      if (isTable) for (const line of drawn.split("\n")) expect(stringWidth(line)).toBeLessThanOrEqual(width);
      for (const text of rows.flat().flatMap((one) => one.split(" "))) expect(drawn).toContain(text);
    }),
    { numRuns: 300 },
  );
});
