/** Every form of payload by the same table: what is told, to the byte, and what comes back, both ways. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  agrees,
  bindCodec,
  bindFirmware,
  type ChannelCodec,
  type Colour,
  clampLevel,
  decodePresence,
  deeperThan,
  encodePresence,
  fill,
  holesOf,
  isGarbled,
  kindOf,
  lookUp,
  MOST_COLOURS,
  NOTHING,
  parseColour,
  parsePattern,
  parseValue,
  read,
  shippedProfiles,
  type Value,
  valueText,
} from "../src/index.ts";
import { commandId } from "./support/order.ts";
import { type Sample, samples } from "./support/payloads.ts";

const id = commandId(3);

function bytesOf(text: string): Uint8Array {
  if (!text.startsWith("hex:")) return new TextEncoder().encode(text.replaceAll("{id}", id));
  return Uint8Array.from((text.slice(4).match(/../g) ?? []).map((pair) => Number.parseInt(pair, 16)));
}

function codecOf({ form, kind, index = 1, reversed = false }: Sample): ChannelCodec {
  return bindCodec(form, { slug: "porch", index, kind: kindOf(kind), reversed, place: index - 1 });
}

describe.each(samples.map((sample) => [sample.about, sample] as const))("%s", (_about, sample) => {
  const codec = codecOf(sample);

  it("tells to the byte", () => {
    for (const [value, out] of sample.told ?? []) expect([...codec.encode(id, value, null)]).toEqual([...bytesOf(out)]);
  });

  it("reads what is reported, and nothing else", () => {
    for (const [payload, meant] of sample.is ?? []) {
      const report = codec.decodeIs(bytesOf(payload));
      if (meant === undefined) expect([payload, isGarbled(report)]).toEqual([payload, true]);
      else expect([payload, report && !isGarbled(report) ? report.value : report]).toEqual([payload, meant]);
    }
  });

  it("reads answers", () => {
    for (const [payload, meant] of sample.done ?? []) {
      const done = codec.decodeDone(bytesOf(payload));
      if (meant === undefined) expect([payload, isGarbled(done)]).toEqual([payload, true]);
      else if (meant === null) expect([payload, done]).toEqual([payload, null]);
      else expect(done).toMatchObject(meant);
    }
  });

  it("reads presence, and what it would say itself", () => {
    for (const [payload, up] of sample.here ?? []) {
      const here = decodePresence(sample.form, bytesOf(payload));
      expect([payload, isGarbled(here) ? undefined : here.up]).toEqual([payload, up]);
    }
    for (const up of [true, false]) {
      expect(decodePresence(sample.form, encodePresence(sample.form, { up, boot: null }))).toMatchObject({ up });
    }
  });

  it("asks in a form that its device understands", () => {
    const { form, kind, index = 1, reversed = false } = sample;
    const firmware = bindFirmware(form, { slug: "porch", index, kind: kindOf(kind), reversed, place: index - 1 });
    expect(firmware.isAsked(codec.encodeAsk(id))).toBe(true);
    for (const [value] of sample.told ?? []) expect(firmware.isAsked(codec.encode(id, value, null))).toBe(false);
  });

  it("takes any bytes without throwing", () => {
    fc.assert(
      fc.property(
        fc.oneof(fc.uint8Array({ maxLength: 80 }), fc.json().map(bytesOf), fc.string().map(bytesOf)),
        (payload) => {
          expect(typeof codec.decodeIs(payload)).toBe("object");
          expect(typeof codec.decodeDone(payload)).toBe("object");
          expect(typeof decodePresence(sample.form, payload)).toBe("object");
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe("how deep a text nests", () => {
  const nested = fc.letrec<{ node: unknown }>((tie) => ({
    node: fc.oneof({ maxDepth: 6 }, fc.string(), fc.array(tie("node")), fc.dictionary(fc.string(), tie("node"))),
  }));
  const depth = (of: unknown): number =>
    typeof of === "object" && of !== null ? 1 + Math.max(0, ...Object.values(of).map(depth)) : 0;

  it("is known without reading it, whatever stands in its strings", () => {
    fc.assert(
      fc.property(nested.node, fc.nat(8), (document, most) => {
        const at = deeperThan(JSON.stringify(document), most);
        expect(at !== null).toBe(depth(document) > most);
      }),
    );
  });
});

describe("asking what it is", () => {
  const porch = { slug: "porch", index: 3, kind: kindOf("relay"), reversed: false };
  const neighbour = { ...porch, slug: "hall", index: 4 };

  it.each([
    ["json", `{"id":"${id}"}`],
    ["word", ""],
    [{ form: "text", ask: "R{index}?" }, "R3?"],
    [{ form: "text", ask: "{channel} {id}" }, `porch ${id}`],
    [{ form: "fields", do: {}, ask: { output: "{index}", get: true } }, '{"output":3,"get":true}'],
    [{ form: "bytes", do: "A0 {index} {value}", ask: "A1 {index} {sum}" }, "hex:a103a4"],
  ] as const)("%j", (form, out) => {
    const asked = bindCodec(form, porch).encodeAsk(id);
    expect([...asked]).toEqual([...bytesOf(out)]);
    expect(bindFirmware(form, porch).isAsked(asked)).toBe(true);
    // One topic for all: the question names who is meant, where it can.
    const others = bindFirmware(form, neighbour).isAsked(asked);
    expect(others).toBe(!/3|porch/.test(out.replace(id, "")));
  });
});

describe("a device that reports in the form in which it is told", () => {
  it("is understood: what comes back is a level for which the same number is written, and no other number confirms it", () => {
    const levels = fc.record({
      level: fc.integer({ min: -100, max: 200 }),
      from: fc.integer({ min: -1_000, max: 1_000 }),
      span: fc.integer({ min: 3, max: 5_000 }),
      turned: fc.boolean(),
      reversed: fc.boolean(),
      kind: fc.constantFrom("dimmer", "position", "motor" as const),
    });
    fc.assert(
      fc.property(levels, ({ level, from, span, turned, reversed, kind: name }) => {
        const kind = kindOf(name as "dimmer");
        const range: [number, number] = turned ? [from + span, from] : [from, from + span];
        const codec = bindCodec({ form: "text", range }, { slug: "porch", index: 1, kind, reversed });
        const to = clampLevel(kind, level);
        const report = codec.decodeIs(codec.encode(id, to, null));
        if (report === null || isGarbled(report)) throw new Error(`${to} came back as ${JSON.stringify(report)}`);
        const [least, most] = codec.levels.spanAround(to, 0);
        expect([least, most]).toEqual([report.value, report.value]);
        const written = Number(new TextDecoder().decode(codec.encode(id, to, null)));
        for (const other of [written - 1, written + 1]) {
          const read = codec.decodeIs(bytesOf(String(other)));
          if (read !== null && !isGarbled(read))
            expect([other, agrees(read.value, to, [least, most])]).toEqual([other, false]);
        }
      }),
    );
  });

  it("on and off are never mixed up, whichever way it is wired", () => {
    const forms = samples.filter(
      // Told and reported in one form.
      ({ kind, form }) =>
        kind === "relay" &&
        typeof form === "object" &&
        form.form !== "fields" &&
        !("is" in form && form.is !== form.do),
    );
    for (const { form } of forms.filter(({ about }) => about !== "single characters")) {
      for (const reversed of [true, false]) {
        const codec = bindCodec(form, { slug: "porch", index: 1, kind: kindOf("relay"), reversed });
        for (const to of ["on", "off"] satisfies Value[]) {
          expect(codec.decodeIs(codec.encode(id, to, null))).toMatchObject({ value: to });
        }
      }
    }
  });
});

describe("both sides of every form", () => {
  const values: Record<string, fc.Arbitrary<Value>> = {
    relay: fc.constantFrom("on", "off"),
    dimmer: fc.integer({ min: 0, max: 100 }),
    position: fc.oneof(fc.integer({ min: 0, max: 100 }), fc.constant<Value>("stop")),
    colour: fc.stringMatching(/^#[0-9a-f]{6}$/).map((hex) => hex as Value),
  };
  const both = [
    ...samples.filter(({ kind, about }) => kind in values && about !== "single characters"),
    ...shippedProfiles
      .filter(({ topics }) => topics.do !== null)
      .map(({ codec, slug }): Sample => {
        const kind = slug.includes("colour")
          ? "colour"
          : slug.includes("blind")
            ? "position"
            : slug.includes("level")
              ? "dimmer"
              : "relay";
        return { about: slug, form: codec, kind };
      }),
  ];

  it.each(both.map((sample) => [sample.about, sample] as const))("%s", (_about, sample) => {
    const codec = codecOf(sample);
    const { form, kind, index = 1, reversed = false } = sample;
    const firmware = bindFirmware(form, { slug: "porch", index, kind: kindOf(kind), reversed, place: index - 1 });
    fc.assert(
      fc.property(values[kind] ?? fc.constant<Value>("on"), (to) => {
        const heard = firmware.hear(codec.encode(id, to, null));
        if (heard === null) throw new Error(`the device does not understand ${to}`);
        if (typeof to === "number") expect(agrees(heard.to, to, codec.levels.spanAround(to, 0))).toBe(true);
        else expect(heard.to).toBe(kind === "colour" ? codec.levels.colourWritten(to as Colour) : to);
        // A device that counts hue echoes the numbers that it was told, not what a colour of ours would make of them.
        if (to === "stop" || JSON.stringify(form).includes("hsv")) return;
        const report = codec.decodeIs(firmware.report(heard.to, "command", heard.id));
        expect(report).toMatchObject({ value: heard.to });
        const answer = firmware.answer(heard.id, true, 1);
        if (answer) expect(codec.decodeDone(answer)).toMatchObject({ ok: true });
      }),
    );
  });
});

describe("text with holes", () => {
  it("is read back as it was written", () => {
    const word = fc.stringMatching(/^[a-z0-9]{1,12}$/);
    fc.assert(
      fc.property(word, word, (value, channel) => {
        const template = "go {channel}: {value};";
        expect(read(template, fill(template, { value, channel }))).toEqual({ value, channel });
      }),
    );
    expect(holesOf("a{x}b{y}")).toEqual(["x", "y"]);
  });

  it("costs no more than the text is long", () => {
    expect(read("{channel}={value}", "=".repeat(4_000))).toBeNull();
    expect(read("{value}", "x".repeat(4_000))).toBeNull();
  });
});

describe("JSON Pointer", () => {
  // The examples of RFC 6901, section 5.
  const document = { foo: ["bar", "baz"], "": 0, "a/b": 1, "m~n": 8, " ": 7 };
  it.each([
    ["", document],
    ["/foo", ["bar", "baz"]],
    ["/foo/0", "bar"],
    ["/", 0],
    ["/a~1b", 1],
    ["/m~0n", 8],
    ["/ ", 7],
    ["/foo/2", NOTHING],
    ["/foo/-", NOTHING],
    ["/foo/00", NOTHING],
    ["/toString", NOTHING],
  ])("%s", (pointer, found) => {
    expect(lookUp(document, pointer)).toEqual(found);
  });
});

describe("colours", () => {
  it.each([
    ["Amber", "#ffbf00"],
    ["#FF8800", "#ff8800"],
    ["f80", "#ff8800"],
    ["255, 136, 0", "#ff8800"],
    ["255 136 0", "#ff8800"],
    ["256,0,0", null],
    ["#ff88", null],
    ["ambre", null],
    ["constructor", null],
  ])("%s", (text, colour) => {
    expect(parseColour(text)).toBe(colour);
  });
});

describe("several colours", () => {
  it.each([
    ["red, green", "#ff0000,#008000"],
    ["Red GREEN; #00f", "#ff0000,#008000,#0000ff"],
    ["255,0,0;0,0,255", "#ff0000,#0000ff"],
    ["255,0,0", "#ff0000"],
    ["amber, amber", "#ffbf00"],
    ["red, gren", null],
    ["", null],
    [",", null],
    [Array(64).fill("red, blue").join(" "), null],
  ])("%s", (text, pattern) => {
    expect(parsePattern(text)).toBe(pattern);
  });

  it("are the same there and back, however they are written", () => {
    const colour = fc.stringMatching(/^#[0-9a-f]{6}$/);
    const pattern = fc
      .array(colour, { minLength: 1, maxLength: MOST_COLOURS })
      .map((all) => parsePattern(all.join(",")));
    const written = fc.constantFrom("hash", "hex", "parts");
    const binding = { slug: "edge", index: 1, kind: kindOf("lamps"), reversed: false };
    fc.assert(
      fc.property(pattern, written, (value, colours) => {
        if (value === null) throw new Error("no pattern");
        const form = { form: "text", colours } as const;
        const told = bindCodec(form, binding).encode(id, value, null);
        expect(bindFirmware(form, binding).hear(told)?.to).toBe(value);
        expect(bindCodec(form, binding).decodeIs(told)).toMatchObject({ value });
        expect(parseValue(valueText(value))).toBe(value);
      }),
    );
  });
});
