/** Codecs: what goes out comes back as meant, and anything else is garbled, never an exception. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { bindCodec, decodePresence, isGarbled, kindOf, type Value } from "../src/index.ts";
import { commandId } from "./support/order.ts";

const bytes = (text: string) => new TextEncoder().encode(text);
const id = commandId(7);

describe("json", () => {
  const json = {
    ...bindCodec("json", { slug: "porch", index: 1, kind: kindOf("relay"), reversed: false }),
    decodeHere: (payload: Uint8Array) => decodePresence("json", payload),
  };

  it("encodes to the byte", () => {
    const text = (to: Value, forMs: number | null) => new TextDecoder().decode(json.encode(id, to, forMs));
    expect(text("on", null)).toBe(`{"id":"${id}","to":"on"}`);
    expect(text(35, 5_000)).toBe(`{"id":"${id}","to":35,"for":5000}`);
  });

  it.each([
    [`{"id":"${id}","ok":true,"code":1}`, { id, ok: true, code: 1 }],
    [`{"id":"${id}","ok":false}`, { id, ok: false, code: null }],
    [`{"ok":true}`, "id"],
    [`{"id":"7","ok":true}`, "id"],
    [`{"id":"${id}","ok":1}`, "ok"],
    [`{"id":"${id}","ok":true,"code":1.5}`, "code"],
    [`{"id":"${id}","ok":true,"code":1e300}`, "code"],
    [`["${id}"]`, "object"],
    ["", "empty"],
  ])("done %s", (text, expected) => {
    const decoded = json.decodeDone(bytes(text));
    if (typeof expected === "string") expect(isGarbled(decoded) && decoded.garbled).toContain(expected);
    else expect(decoded).toEqual(expected);
  });

  it.each([
    [`{"to":"on"}`, { value: "on", by: null, id: null }],
    [`{"to":"off","by":"hand","more":[1]}`, { value: "off", by: "hand", id: null }],
    [`{"to":"on","by":"command","id":"${id}"}`, { value: "on", by: "command", id }],
    [`{"to":"ON"}`, "to"],
    [`{"to":true}`, "to"],
    [`{"to":"on","by":"magic"}`, "by"],
    [`{"to":"on","id":7}`, "id"],
  ])("is %s", (text, expected) => {
    const decoded = json.decodeIs(bytes(text));
    if (typeof expected === "string") expect(isGarbled(decoded) && decoded.garbled).toContain(expected);
    else expect(decoded).toEqual(expected);
  });

  it.each([
    [`{"up":true,"boot":"a1"}`, { up: true, boot: "a1" }],
    [`{"up":false}`, { up: false, boot: null }],
    [`{"up":"yes"}`, "up"],
    [`{"up":true,"boot":7}`, "boot"],
  ])("here %s", (text, expected) => {
    const decoded = json.decodeHere(bytes(text));
    if (typeof expected === "string") expect(isGarbled(decoded) && decoded.garbled).toContain(expected);
    else expect(decoded).toEqual(expected);
  });

  it("takes any bytes without throwing", () => {
    fc.assert(
      fc.property(fc.oneof(fc.uint8Array({ maxLength: 200 }), fc.json().map(bytes)), (payload) => {
        for (const decode of [json.decodeDone, json.decodeIs, json.decodeHere])
          expect(typeof decode(payload)).toBe("object");
      }),
      { numRuns: 1_000 },
    );
  });

  it("refuses payloads that are too long unread", () => {
    expect(json.decodeIs(bytes(`{"to":"on","pad":"${"x".repeat(5_000)}"}`))).toEqual({
      garbled: "longer than 4096 bytes",
      unattributed: true,
    });
  });
});
