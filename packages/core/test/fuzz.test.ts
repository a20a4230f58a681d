/**
 * Codecs against whatever may come, compared with a slow, honest reader: no crash, no claim that it does not share.
 * FUZZ_RUNS says how many inputs; `npm run fuzz` takes a million.
 */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { bindCodec, type ChannelBinding, isGarbled, kindOf, type PayloadForm, readMessage } from "../src/index.ts";
import { honestField, honestValues, isHonestLevel, type PlainForm } from "./support/oracle.ts";

const RUNS = Number(process.env.FUZZ_RUNS ?? 20_000);
const bytes = (text: string) => new TextEncoder().encode(text);
const relay: ChannelBinding = { slug: "porch", index: 1, kind: kindOf("relay"), reversed: false };
const dimmer: ChannelBinding = { ...relay, kind: kindOf("dimmer") };

const plainForms: readonly PlainForm[] = [
  { about: "bare words", on: "ON", off: "OFF", before: "", after: "" },
  { about: "words in brackets", on: "1", off: "0", before: "[state ", after: "]" },
  { about: "levels to 255", on: "on", off: "off", range: [0, 255], before: "", after: "" },
  { about: "levels the other way round", on: "on", off: "off", range: [1_023, 0], before: "L=", after: ";" },
];

/** Near misses above all: a right payload with something put in, taken out, or changed. */
function nearly(texts: readonly string[]): fc.Arbitrary<string> {
  const spoilt = fc
    .tuple(fc.constantFrom(...texts), fc.nat(40), fc.nat(3), fc.string({ unit: "binary", maxLength: 3 }))
    .map(([text, at, cut, put]) => {
      const from = text.length === 0 ? 0 : at % (text.length + 1);
      return text.slice(0, from) + put + text.slice(from + cut);
    });
  return fc.oneof({ weight: 6, arbitrary: spoilt }, fc.constantFrom(...texts), fc.string({ maxLength: 30 }), fc.json());
}

describe("text, against the honest reader", () => {
  it.each(plainForms.map((form) => [form.about, form] as const))("%s", (_about, plain) => {
    const { before, after, range, on, off } = plain;
    const hole = `${before}{value}${after}`;
    const form: PayloadForm = { form: "text", do: hole, is: hole, words: { on, off }, ...(range ? { range } : {}) };
    const codec = bindCodec(form, range ? dimmer : relay);
    const right = [on, off, "0", "100", "128", "255", "1023", "511"].map((one) => `${before}${one}${after}`);
    fc.assert(
      fc.property(nearly(right), (text) => {
        const read = codec.decodeIs(bytes(text));
        if (read === null || isGarbled(read)) return;
        const honest = levels(honestValues(text, plain), range !== undefined);
        if (typeof read.value === "number" && !Number.isInteger(read.value))
          expect([text, isHonestLevel(text, read.value, plain)]).toEqual([text, true]);
        else expect([text, [...honest]]).toEqual([text, expect.arrayContaining([String(read.value)])]);
      }),
      { numRuns: RUNS },
    );
  });
});

/** Of a dimmer off is a level, and on is none. */
function levels(honest: ReadonlySet<string>, isDimmer: boolean): Set<string> {
  return new Set([...honest].map((one) => (one === "off" && isDimmer ? "0" : one)));
}

describe("JSON, against the honest reader", () => {
  it("a state counts only where it stands, and only beside a result that says yes", () => {
    const form: PayloadForm = {
      form: "fields",
      do: {},
      words: { on: "on", off: "off" },
      is: { value: "/a/state" },
      done: { result: "/rc", ok: ["ok", 0], no: ["err"] },
    };
    const codec = bindCodec(form, relay);
    const value = fc.oneof(
      fc.constantFrom("on", "off", "ON", "ok", "err", 0, 1, 4, true, false, null, ""),
      fc.jsonValue({ maxDepth: 1 }),
    );
    const document = fc.oneof(
      {
        weight: 5,
        arbitrary: fc.record({ a: fc.record({ state: value }, { requiredKeys: [] }), rc: value }, { requiredKeys: [] }),
      },
      fc.jsonValue(),
    );
    const texts = fc.oneof(
      { weight: 4, arbitrary: document.map((one) => JSON.stringify(one)) },
      nearly(['{"a":{"state":"on"},"rc":"ok"}']),
    );
    fc.assert(
      fc.property(texts, (text) => {
        const read = readMessage(codec, { done: true, is: true }, bytes(text));
        if (read?.report) {
          const state = honestField(text, ["a", "state"]);
          const rc = honestField(text, ["rc"]);
          expect([text, String(state).trim().toLowerCase()]).toEqual([text, read.report.value]);
          // A result that is there and is no yes proves nothing.
          if (rc !== null) expect([text, ["ok", "0"].includes(String(rc).trim().toLowerCase())]).toEqual([text, true]);
        }
        if (read?.answer?.ok) {
          const rc = honestField(text, ["rc"]);
          expect([text, ["ok", "0"].includes(String(rc).trim().toLowerCase())]).toEqual([text, true]);
        }
      }),
      { numRuns: RUNS },
    );
  });
});

describe("bytes, against the honest reader", () => {
  it("a frame counts only whole, with its sum", () => {
    const codec = bindCodec({ form: "bytes", do: "A0 {index} {value} {sum}" }, relay);
    const frame = fc.oneof(
      fc.uint8Array({ maxLength: 8 }),
      fc.tuple(fc.constant(0xa0), fc.nat(3), fc.nat(3), fc.nat(255)).map((all) => Uint8Array.from(all)),
    );
    fc.assert(
      fc.property(frame, (payload) => {
        const read = codec.decodeIs(payload);
        if (read === null || isGarbled(read)) return;
        const [head, index, value, sum] = payload;
        expect([payload.length, head, index, sum]).toEqual([
          4,
          0xa0,
          1,
          ((head ?? 0) + (index ?? 0) + (value ?? 0)) % 256,
        ]);
        expect(read.value).toBe(value === 1 ? "on" : value === 0 ? "off" : "never");
      }),
      { numRuns: RUNS },
    );
  });
});
