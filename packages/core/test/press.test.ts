/** Presses of an input: what a person did with it, from its bare states. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  INPUT_EVENTS,
  type InputEvent,
  type InputLevel,
  PRESS_TIMES,
  type PressInput,
  type PressState,
  pressReport,
  pressTime,
  pressUnseen,
  UNPRESSED,
} from "../src/index.ts";

const presses = new Set<InputEvent>(["once", "twice", "long"]);

/** Plays reports at their times, and lets time pass in between as a timer would. */
function play(
  reports: readonly (readonly [at: number, level: InputLevel])[],
  input: Partial<PressInput> = {},
): (readonly [number, InputEvent])[] {
  const how: PressInput = { times: PRESS_TIMES, wanted: presses, ...input };
  const told: (readonly [number, InputEvent])[] = [];
  let state: PressState = pressUnseen("off");
  let wakeAt: number | null = null;
  const pass = (until: number) => {
    while (wakeAt !== null && wakeAt <= until) {
      const at: number = wakeAt;
      const step = pressTime(state, at, how);
      for (const event of step.events) told.push([at, event]);
      state = step.next;
      wakeAt = step.wakeAt;
    }
  };
  for (const [at, level] of reports) {
    pass(at - 1);
    const step = pressReport(state, level, null, at, how);
    for (const event of step.events) told.push([at, event]);
    state = step.next;
    wakeAt = step.wakeAt;
  }
  pass(1_000_000);
  return told;
}

const events = (...args: Parameters<typeof play>) => play(...args).map(([, event]) => event);

describe("a press", () => {
  it("counts as soon as the contact is made, where nothing else is waited for", () => {
    const wanted = new Set<InputEvent>(["once"]);
    expect(
      play(
        [
          [1_000, "on"],
          [1_100, "off"],
        ],
        { wanted },
      ),
    ).toEqual([[1_000, "once"]]);
  });

  it("counts when it is let go, where a long one means something else", () => {
    const wanted = new Set<InputEvent>(["once", "long"]);
    expect(
      play(
        [
          [1_000, "on"],
          [1_300, "off"],
        ],
        { wanted },
      ),
    ).toEqual([[1_300, "once"]]);
  });

  it("counts when no second one came, where two mean something else", () => {
    expect(
      play([
        [1_000, "on"],
        [1_100, "off"],
      ]),
    ).toEqual([[1_501, "once"]]);
  });

  it("is one of two where the second comes in time, told as that one is made", () => {
    expect(
      play([
        [1_000, "on"],
        [1_100, "off"],
        [1_500, "on"],
        [1_600, "off"],
      ]),
    ).toEqual([[1_500, "twice"]]);
  });

  it("is not one of two where the second comes too late", () => {
    expect(
      events([
        [1_000, "on"],
        [1_100, "off"],
        [1_502, "on"],
        [1_600, "off"],
      ]),
    ).toEqual(["once", "once"]);
  });

  it("is long while it is still held, and nothing more when it is let go", () => {
    expect(
      play([
        [1_000, "on"],
        [3_000, "off"],
      ]),
    ).toEqual([[1_800, "long"]]);
  });

  it("bounces: six edges within the bounce are one press", () => {
    const bounce = [0, 4, 9, 13, 20, 31].map((ms, index) => [1_000 + ms, index % 2 ? "off" : "on"] as const);
    expect(events([...bounce, [1_035, "on"], [1_200, "off"]])).toEqual(["once"]);
  });

  it("that is over within the bounce is not taken for a long one", () => {
    expect(
      play([
        [1_000, "on"],
        [1_030, "off"],
      ]),
    ).toEqual([[1_451, "once"]]);
  });

  it("of a button that tells no release is each report of on", () => {
    const times = { ...PRESS_TIMES, releases: false };
    const wanted = new Set<InputEvent>(["once"]);
    expect(
      events(
        [
          [1_000, "on"],
          [1_020, "on"],
          [2_000, "on"],
          [3_000, "on"],
        ],
        { times, wanted },
      ),
    ).toEqual(["once", "once", "once"]);
  });
});

describe("an input", () => {
  it("that tells the same again has done nothing", () => {
    const wanted = new Set(INPUT_EVENTS);
    expect(
      events(
        [
          [1_000, "off"],
          [60_000, "off"],
          [120_000, "off"],
        ],
        { wanted },
      ),
    ).toEqual([]);
  });

  it("becomes on and off, each told at once", () => {
    const wanted = new Set<InputEvent>(["on", "off"]);
    expect(
      play(
        [
          [1_000, "on"],
          [5_000, "off"],
        ],
        { wanted },
      ),
    ).toEqual([
      [1_000, "on"],
      [5_000, "off"],
    ]);
  });

  it("of which nothing was known has done nothing by its first report", () => {
    const input = { times: PRESS_TIMES, wanted: new Set(INPUT_EVENTS) };
    expect(pressReport(UNPRESSED, "on", null, 0, input).events).toEqual([]);
    expect(pressReport(UNPRESSED, "on", "on", 0, input).events).toEqual([]);
    expect(pressReport(UNPRESSED, "on", "off", 0, input).events).toEqual(["on"]);
  });

  it("that was held when nobody listened is no press once it is let go", () => {
    const input = { times: PRESS_TIMES, wanted: presses };
    const { next, wakeAt } = pressReport(pressUnseen("on"), "off", null, 0, input);
    expect(wakeAt).toBeNull();
    expect(pressTime(next, 10_000, input).events).toEqual([]);
  });
});

const edges = fc
  .array(fc.tuple(fc.integer({ min: 1, max: 2_000 }), fc.constantFrom("on" as const, "off" as const)), {
    maxLength: 30,
  })
  .map((steps) => {
    let at = 0;
    return steps.map(([ms, level]) => {
      at += ms;
      return [at, level] as const;
    });
  });

it("whatever an input does, no more presses are told than edges, and in the order of time", () => {
  fc.assert(
    fc.property(edges, (reports) => {
      const told = play(reports, { wanted: new Set(INPUT_EVENTS) });
      const rises = reports.filter(([, level], index) => level === "on" && reports[index - 1]?.[1] !== "on").length;
      expect(told.filter(([, event]) => presses.has(event)).length).toBeLessThanOrEqual(rises);
      const times = told.map(([at]) => at);
      expect(times).toEqual([...times].sort((one, other) => one - other));
      // On and off take turns: nothing is let go that was not made.
      const levels = told.flatMap(([, event]) => (event === "on" || event === "off" ? [event] : []));
      expect(levels).toEqual(levels.map((_, index) => (index % 2 === 0 ? "on" : "off")));
    }),
    { numRuns: 2_000 },
  );
});
