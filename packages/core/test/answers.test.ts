/** Answers to questions: yes and no need evidence. */
import { describe, expect, it } from "vitest";
import {
  answerOf,
  answerWords,
  type ChannelEntry,
  type KnownState,
  kindNames,
  type Question,
  type StateAge,
} from "../src/index.ts";
import { ANSWERS, type AnswerRow } from "./support/answers.ts";
import { phraseSnapshot } from "./support/phrases.ts";

const NOW = 1_800_000_000_000;
const [some] = phraseSnapshot.channels;
if (!some) throw new Error("no channel");

function stateOf({ kind, made = "on", value, ...row }: AnswerRow): KnownState {
  const [stale, lastTaken] = [row.stale ?? null, row.lastTaken ?? null];
  const channel: ChannelEntry = {
    ...some,
    kind,
    made,
    unit: kind === "sensor" || kind === "setpoint" ? "°C" : null,
  } as ChannelEntry;
  const age: StateAge = { stale, asOf: stale === "retained" ? null : NOW - 300_000 };
  return { channel, value, age, lastTaken };
}

const letter = (yes: boolean | null) => (yes === null ? "-" : yes ? "y" : "n");

describe("the table of answers", () => {
  it.each(ANSWERS.map((row) => [`${row.kind}${row.made ? ` (made: ${row.made})` : ""}`, row.state, row] as const))(
    "%s, %s",
    (_kind, _state, row) => {
      const state = stateOf(row);
      const said = (["on", "off", "open", "shut"] as const).map((asked) => letter(answerOf(state, asked, NOW).yes));
      expect([said.join(""), answerOf(state, null, NOW).text]).toEqual([row.answers, row.text]);
    },
  );

  it("has every kind, unknown and old", () => {
    for (const kind of kindNames) {
      const rows = ANSWERS.filter((row) => row.kind === kind);
      expect([kind, rows.some(({ value }) => value === null)]).toEqual([kind, true]);
    }
  });

  it("never says yes or no of what is unknown or old", () => {
    for (const row of ANSWERS) if (row.value === null || row.stale) expect(row.answers).toBe("----");
  });
});

describe("the answer in sentences", () => {
  const words = (question: Partial<Question>, ...rows: AnswerRow[]) =>
    answerWords({ channels: [], which: null, expected: null, any: false, ...question }, rows.map(stateOf), NOW);
  const row = (kind: string, state: string) =>
    ANSWERS.find((one) => one.kind === kind && one.state === state) as AnswerRow;

  it("begins with yes or no only where that is known", () => {
    expect(words({ expected: "on" }, row("light", "on"))).toBe("Yes. Porch lantern, Wren: on.");
    expect(words({ expected: "shut" }, row("position", "between"))).toBe("No. Porch lantern, Wren: 40 % open.");
    expect(words({ expected: "on" }, row("light", "offline"))).toBe(
      "Porch lantern, Wren: on (offline, last seen so 5 min ago).",
    );
    expect(words({ expected: "open" }, row("pulse", "off"))).toBe(
      "Porch lantern, Wren: it cannot tell: a pulse contact reports no state.",
    );
  });

  it("of several tells those that are so, and those of which nobody knows", () => {
    expect(words({ which: "on" }, row("light", "on"), row("light", "off"), row("light", "unknown"))).toBe(
      "Porch lantern, Wren: on. Not certain: Porch lantern, Wren: unknown.",
    );
    expect(words({ which: "on" }, row("light", "off"), row("relay", "off"))).toBe("None of 2 is on.");
    expect(words({ which: "on" }, row("light", "offline"))).toMatch(/^None is known to be on\. Not certain: .*offline/);
    // A door is neither on nor off: it does not count among those that are not.
    expect(words({ which: "on" }, row("light", "off"), row("position", "open"))).toBe("None of 1 is on.");
    expect(words({ which: "open" }, row("light", "on"))).toBe("Nothing there can be open.");
  });
});
