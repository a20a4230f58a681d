/** Frames of the radio line: what is written is read back, however it is cut, and noise damages nothing but itself. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { checkPlan, checksum, encodeFrame, FrameReader } from "../src/index.ts";

const content = fc.dictionary(
  fc.string({ minLength: 1, maxLength: 4 }).filter((key) => key !== "__proto__"),
  fc.oneof(fc.boolean(), fc.integer({ min: -65_536, max: 65_536 }), fc.string({ maxLength: 20 })),
  { maxKeys: 6, noNullPrototype: true },
);

describe("frames", () => {
  it("have the checksum of the standard's example", () => {
    expect(checksum(new TextEncoder().encode("123456789"))).toBe(0x29b1);
  });

  it("look as they are documented", () => {
    // {"k":"got","s":192}: CBOR a2 61 6b 63 676f74 61 73 18 c0; the c0 is escaped.
    const bytes = [...encodeFrame({ k: "got", s: 192 })].map((byte) => byte.toString(16).padStart(2, "0"));
    expect(bytes.join(" ")).toMatch(/^c0 a2 61 6b 63 67 6f 74 61 73 18 db dc .* c0$/);
  });

  it("are read back as they were written, in whatever pieces they come", () => {
    fc.assert(
      fc.property(
        fc.array(content, { maxLength: 5 }),
        fc.infiniteStream(fc.integer({ min: 1, max: 9 })),
        (all, cuts) => {
          const bytes = all.flatMap((one) => [...encodeFrame(one)]);
          const reader = new FrameReader();
          const found: object[] = [];
          for (let at = 0; at < bytes.length; ) {
            const size = cuts.next().value ?? 1;
            found.push(...reader.push(Uint8Array.from(bytes.slice(at, at + size))));
            at += size;
          }
          expect(found).toEqual(all);
          expect(reader.damaged).toBe(0);
        },
      ),
    );
  });

  it("survive any noise between them", () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 600 }), content, (noise, one) => {
        const reader = new FrameReader();
        reader.push(noise);
        const found = reader.push(encodeFrame(one));
        expect(found.at(-1)).toEqual(one);
      }),
    );
  });

  it("are not believed when one bit of them is turned", () => {
    const frame = encodeFrame({ k: "do", n: 4, s: 7, c: 1, v: "on" });
    for (let bit = 8; bit < (frame.length - 1) * 8; bit += 1) {
      const bent = Uint8Array.from(frame);
      bent[bit >> 3] = (bent[bit >> 3] ?? 0) ^ (1 << (bit & 7));
      expect(new FrameReader().push(bent)).toEqual([]);
    }
  });
});

describe("a plan", () => {
  const device = { site: "fennel-hall", device: "old-board", channels: [{ slug: "lamp", kind: "light" }] };
  const broker = { url: "mqtt://127.0.0.1" };
  const plan = (reach: object, more: object = {}) => ({ broker, devices: [{ ...device, reach }], ...more });
  const http = { by: "http", url: "http://192.0.2.7", do: { method: "PUT", path: "/{index}/{value}" } };

  it("is taken when it is right", () => {
    expect(checkPlan(plan(http)).devices).toHaveLength(1);
  });

  it.each([
    [plan({ by: "pigeon" }), /"devices\[0\].reach.by" must be one of \[http, lines, mailbox, radio, lamps\]/],
    [plan({ ...http, url: "file:///etc/passwd" }), /reach.url" must be a valid uri with a scheme matching/],
    [plan({ ...http, loud: true }), /"devices\[0\].reach.loud" is not allowed/],
    [plan({ by: "radio", port: "COM3", node: 0 }), /reach.port" is a tty like .*reach.node" must be greater than/],
    [plan({ by: "lamps", port: "/dev/ttyUSB0", lamps: 0, frame: "A5 {lamps}" }), /reach.lamps" must be greater than/],
    [
      plan({ by: "lamps", port: "/dev/ttyUSB0", lamps: 9, frame: "A5 {sum}" }),
      /reach.frame" holds bytes like A5, \{count\}/,
    ],
    [plan({ by: "mailbox", key: "too short" }), /reach.key" is 16 to 200 visible characters/],
    [plan({ by: "mailbox", key: "long-enough-for-a-key" }), /"mailbox" is needed/],
    [{ broker, devices: [] }, /"devices" must contain at least 1/],
    [
      {
        broker,
        devices: [
          { ...device, reach: http },
          { ...device, reach: http },
        ],
      },
      /"devices\[1\]" contains a duplicate/,
    ],
  ])("says what is wrong with it and where: %#", (input, words) => {
    expect(() => checkPlan(input)).toThrow(words);
  });
});
