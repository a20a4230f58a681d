/** Boards as they are wired: words, levels, topics, impulses, and states that something else tells. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  bindCodec,
  bindFirmware,
  type Calibration,
  type ChannelBinding,
  isGarbled,
  type KindName,
  kindOf,
  type PayloadForm,
  type PresenceEvent,
  presencePattern,
  type SeenBy,
  seenValue,
  stateAgeOf,
  type Value,
  wordConflicts,
  writtenFor,
} from "../src/index.ts";
import { commandId } from "./support/order.ts";

const id = commandId(3);
const bytes = (text: string) => new TextEncoder().encode(text);
const text = (payload: Uint8Array) => new TextDecoder().decode(payload);
const binding = (kind: KindName, more: Partial<ChannelBinding> = {}): ChannelBinding => ({
  slug: "porch",
  index: 1,
  kind: kindOf(kind),
  reversed: false,
  place: 0,
  ...more,
});
const readAs = (form: PayloadForm, of: ChannelBinding, payload: string) => {
  const read = bindCodec(form, of).decodeIs(bytes(payload));
  return read === null ? "another channel" : isGarbled(read) ? "garbled" : read.value;
};

describe("words", () => {
  const letters: PayloadForm = {
    form: "text",
    words: [
      { on: "A", off: "a" },
      { on: "B", off: "b" },
    ],
  };
  const [first, second] = [binding("relay"), binding("relay", { index: 2, place: 1 })];

  it("channel by channel: each hears its own, and leaves the others' alone", () => {
    expect(text(bindCodec(letters, second).encode(id, "on", null))).toBe("B");
    expect(["A", "a", "B", "b", "x"].map((one) => readAs(letters, first, one))).toEqual([
      "on",
      "off",
      "another channel",
      "another channel",
      "garbled",
    ]);
    expect(["A", "a", "B", "b"].map((one) => readAs(letters, second, one)).slice(2)).toEqual(["on", "off"]);
    expect(bindCodec(letters, first).namesChannel).toMatchObject({ do: true, is: true });
  });

  it("are compared exactly where case alone tells them apart, and without case elsewhere", () => {
    const loud: PayloadForm = { form: "text", words: { on: "ON", off: "OFF" } };
    expect([readAs(loud, first, "on"), readAs(loud, first, "Off")]).toEqual(["on", "off"]);
    const one: PayloadForm = { form: "text", words: { on: "A", off: "a" } };
    expect([readAs(one, first, "A"), readAs(one, first, "a")]).toEqual(["on", "off"]);
  });

  it("that mean two things are named", () => {
    expect(wordConflicts({ words: { on: "1", off: 1 } }, first)).toEqual(['on and off are both written "1"']);
    expect(wordConflicts({ words: { on: "off" } }, first)).toHaveLength(1);
    expect(wordConflicts({ words: { on: "A", off: "a" } }, first)).toEqual([]);
  });

  it("of one channel alone come before its profile's", () => {
    const own = binding("relay", { words: { on: "AN", off: "AUS" } });
    expect(text(bindCodec(letters, own).encode(id, "off", null))).toBe("AUS");
    expect(readAs(letters, own, "aus")).toBe("off");
  });
});

describe("command and report described apart", () => {
  const apart: PayloadForm = {
    form: "apart",
    do: { form: "text", do: "#{value}", range: [0, 255] },
    done: { form: "text", done: { ok: ["got it"], no: [] } },
    is: { form: "fields", do: {}, is: { value: "/level" }, range: [100, 0], decimals: 1 },
    here: { form: "text", here: { up: "hello", down: "bye" } },
  };

  it("has its own form, range and polarity each way", () => {
    const codec = bindCodec(apart, binding("dimmer"));
    expect(text(codec.encode(id, 50, null))).toBe("#128");
    expect(codec.decodeDone(bytes("got it"))).toMatchObject({ ok: true });
    expect(codec.decodeIs(bytes('{"level":25.0}'))).toMatchObject({ value: 75 });
  });

  it("polarity may be turned in one direction only", () => {
    const turned: PayloadForm = {
      form: "apart",
      do: { form: "text", words: { on: 0, off: 1 } },
      is: { form: "text", words: { on: 0, off: 1 }, turned: true },
    };
    expect(text(bindCodec(turned, binding("relay")).encode(id, "on", null))).toBe("0");
    expect(readAs(turned, binding("relay"), "0")).toBe("off");
  });

  it("writes the keys of JSON in the order in which they stand", () => {
    const form: PayloadForm = { form: "fields", do: { z: "{value}", a: 1, m: "{index}" } };
    expect(text(bindCodec(form, binding("relay")).encode(id, "on", null))).toBe('{"z":"on","a":1,"m":1}');
  });

  it("has colours in the order of the strip", () => {
    fc.assert(
      fc.property(
        fc.stringMatching(/^#[0-9a-f]{6}$/),
        fc.constantFrom("rgb", "grb", "bgr", "brg", "gbr", "rbg" as const),
        fc.constantFrom("hash", "hex", "parts" as const),
        (colour, colourOrder, colours) => {
          const form: PayloadForm = { form: "text", colours, colourOrder };
          const codec = bindCodec(form, binding("colour"));
          expect(codec.decodeIs(codec.encode(id, colour as Value, null))).toMatchObject({ value: colour });
        },
      ),
    );
    const grb: PayloadForm = { form: "text", colours: "hex", colourOrder: "grb" };
    expect(text(bindCodec(grb, binding("colour")).encode(id, "#112233", null))).toBe("221133");
    expect(readAs(grb, binding("colour"), "amber")).toBe("#ffbf00");
    expect(readAs(grb, binding("colour"), "aabbcc")).toBe("#bbaacc");
    expect(readAs(grb, binding("lamps"), "amber aabbcc #112233")).toBe("#ffbf00,#bbaacc,#221133");
  });
});

describe("calibration", () => {
  const calibrations: fc.Arbitrary<Calibration> = fc.record({
    least: fc.integer({ min: 0, max: 80 }),
    most: fc.integer({ min: 81, max: 100 }),
    curve: fc.constantFrom(0.5, 1, 2.2),
    trim: fc.integer({ min: 50, max: 100 }),
  });
  const kinds = fc.constantFrom("dimmer", "position", "motor" as const);

  it("nothing stays nothing, the least level moves, and more is never less", () => {
    fc.assert(
      fc.property(calibrations, kinds, fc.boolean(), (calibration, kind, reversed) => {
        const codec = bindCodec({ form: "text", range: [0, 1_023] }, binding(kind, { calibration, reversed }));
        const raw = (level: number) => Number(text(codec.encode(id, level, null)));
        const direction = Math.sign(raw(100) - raw(0));
        expect(raw(1) === raw(0)).toBe(false);
        for (let level = 1; level <= 100; level += 1)
          expect((raw(level) - raw(level - 1)) * direction).toBeGreaterThanOrEqual(0);
      }),
      { numRuns: 60 },
    );
  });

  it("comes back as a level for which the same number is written", () => {
    fc.assert(
      fc.property(calibrations, kinds, fc.integer({ min: -100, max: 100 }), (calibration, kind, asked) => {
        const level = kind === "motor" ? asked : Math.abs(asked);
        const codec = bindCodec({ form: "text", range: [0, 1_023] }, binding(kind, { calibration }));
        const back = codec.decodeIs(codec.encode(id, level, null));
        if (back === null || isGarbled(back)) throw new Error(`${level} came back garbled`);
        expect(text(codec.encode(id, back.value, null))).toBe(text(codec.encode(id, level, null)));
      }),
    );
  });

  it("a motor that needs 40 % to move, and a lamp that flickers below 5 %", () => {
    const motor = bindCodec({ form: "text" }, binding("motor", { calibration: { least: 40 } }));
    expect([0, 1, 50, 100, -1, -100].map((level) => text(motor.encode(id, level, null)))).toEqual([
      "0",
      "41",
      "70",
      "100",
      "-41",
      "-100",
    ]);
    const lamp = bindCodec({ form: "text", range: [0, 255] }, binding("dimmer", { calibration: { least: 5 } }));
    expect([0, 1, 100].map((level) => text(lamp.encode(id, level, null)))).toEqual(["0", "15", "255"]);
    // Below the least useful level it is not off: nobody may say so.
    // Nor is it 1 %: another number is written for that.
    expect(lamp.decodeIs(bytes("3"))).toMatchObject({ value: 0.2 });
  });

  it("tells how long it takes", () => {
    const form: PayloadForm = { form: "fields", do: { level: "{value}", ms: "{ramp}" } };
    const codec = bindCodec(form, binding("dimmer", { calibration: { rampMs: 800 } }));
    expect(text(codec.encode(id, 30, null))).toBe('{"level":30,"ms":800}');
  });
});

describe("a state that other channels tell", () => {
  const seen = (seenBy: SeenBy, kind: KindName, values: Record<string, Value | null>, before: Value | null = null) =>
    seenValue(seenBy, kindOf(kind), (path) => values[path] ?? null, before);

  it("a meter with hysteresis", () => {
    const meter = { channel: "m", above: 20, below: 5 };
    expect([40, 20, 12, 4].map((watts) => seen(meter, "light", { m: watts }, "on"))).toEqual(["on", "on", "on", "off"]);
    expect([40, 12, 4].map((watts) => seen(meter, "light", { m: watts }, "off"))).toEqual(["on", "off", "off"]);
    expect(seen(meter, "light", { m: 12 })).toBeNull();
    expect(seen(meter, "light", { m: null })).toBeNull();
  });

  it("a contact, either way", () => {
    expect(seen({ channel: "c" }, "relay", { c: "on" })).toBe("on");
    expect(seen({ channel: "c", turned: true }, "relay", { c: "on" })).toBe("off");
    expect([seen({ channel: "c" }, "position", { c: "on" }), seen({ channel: "c" }, "position", { c: "off" })]).toEqual(
      ["between", 0],
    );
  });

  it("two end contacts of a gate", () => {
    const ends = { open: "o", shut: "s" };
    const gate = (open: Value | null, shut: Value | null) => seen(ends, "position", { o: open, s: shut });
    expect([gate("on", "off"), gate("off", "on"), gate("off", "off")]).toEqual([100, 0, "between"]);
    // Both at once cannot be, and one alone tells nothing.
    expect([gate("on", "on"), gate("on", null), gate(null, "on")]).toEqual([null, null, null]);
  });
});

describe("what is written for it", () => {
  it("an impulse, the other of what the switch is, or what it shall be", () => {
    expect(writtenFor({ drive: "set" }, "on", null)).toBe("on");
    expect(writtenFor({ drive: "impulse" }, "on", null)).toBe("pulse");
    expect([writtenFor({ drive: "flip" }, "on", "on"), writtenFor({ drive: "flip" }, "on", "off")]).toEqual([
      "off",
      "on",
    ]);
    expect(writtenFor({ drive: "flip" }, "on", null)).toBeNull();
  });
});

describe("how old a state is", () => {
  const facts = { online: true, heard: { live: true }, doubt: null, liveAt: 1_000, reportsEveryMs: null, now: 2_000 };
  it.each([
    [{}, null, 1_000],
    [{ online: false }, "offline", 1_000],
    [{ heard: null }, "unheard", 1_000],
    [{ heard: { live: false }, liveAt: null }, "retained", null],
    [{ reportsEveryMs: 400 }, null, 1_000],
    [{ reportsEveryMs: 300 }, "silent", 1_000],
    [{ online: null }, null, 1_000],
    [{ doubt: "unproven" }, "unproven", 1_000],
    [{ doubt: "unreadable", heard: null }, "unreadable", 1_000],
    [{ doubt: "unproven", online: false }, "offline", 1_000],
  ] as const)("%j: %s", (more, stale, asOf) => {
    expect(stateAgeOf({ ...facts, ...more })).toEqual({ stale, asOf });
  });
});

describe("comings and goings", () => {
  const events = (gapMs: number, boots: readonly (string | null)[], everyMs = 3_000): PresenceEvent[] =>
    boots.flatMap((boot, index) => [
      { up: true, boot, at: index * everyMs },
      { up: false, boot: null, at: (index + 1) * everyMs - gapMs },
    ]);
  const named = (all: PresenceEvent[]) => presencePattern(all, all.at(-1)?.at ?? 0);

  it.each([
    ["two boards by turns", 50, ["a", "b", "a", "b", "a"], "twin"],
    [
      "two boards that say no power-up mark: each comes the moment the other goes",
      50,
      [null, null, null, null, null],
      "twin",
    ],
    ["a restart again and again", 1_500, ["a", "b", "c", "d", "e"], "reboot-loop"],
    ["a bad link", 1_500, [null, null, null, null, null], "flapping"],
    ["one board with a bad link", 1_500, ["a", "a", "a", "a", "a"], "flapping"],
    ["once is nothing", 1_500, ["a", "b"], null],
  ] as const)("%s: %s", (_about, gapMs, boots, pattern) => {
    expect(named(events(gapMs, boots))).toBe(pattern);
  });

  it("long ago is nothing", () => {
    expect(presencePattern(events(50, ["a", "b", "a", "b", "a"]), 10_000_000)).toBeNull();
  });
});

describe("every form, both sides", () => {
  it("says of any bytes nothing that a relay cannot be", () => {
    const forms: PayloadForm[] = ["json", "word", { form: "apart", do: "word", is: "json" }];
    fc.assert(
      fc.property(fc.constantFrom(...forms), fc.uint8Array({ maxLength: 60 }), (form, payload) => {
        const read = bindCodec(form, binding("relay")).decodeIs(payload);
        // Any bytes may by chance be a report: of one thing or the other.
        if (read !== null && !isGarbled(read)) expect(["on", "off"]).toContain(read.value);
        bindFirmware(form, binding("relay")).hear(payload);
      }),
    );
  });
});
