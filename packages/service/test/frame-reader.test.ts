/** What the broker sends is read as the library would read it, wherever it is cut. */
import fc from "fast-check";
import { generate, type Packet, parser } from "mqtt-packet";
import { describe, expect, it } from "vitest";
import { FrameReader } from "../src/broker/frame-reader.ts";

const LARGEST = 262_144;
const VERSION = { protocolVersion: 5 } as const;

const topic = fc.string({ unit: "grapheme", minLength: 1, maxLength: 40 }).filter((text) => !/[+#\0]/.test(text));
const messageId = fc.integer({ min: 1, max: 65_535 });
const properties = fc.constantFrom(
  {},
  { messageExpiryInterval: 3 },
  { responseTopic: "a/b" },
  { userProperties: { a: "1" } },
);

const publish = fc
  .record({
    topic,
    payload: fc.uint8Array({ maxLength: 200 }).map((bytes) => Buffer.from(bytes)),
    qos: fc.constantFrom(0 as const, 1 as const, 2 as const),
    retain: fc.boolean(),
    messageId,
    properties,
  })
  .chain((packet) =>
    (packet.qos === 0 ? fc.constant(false) : fc.boolean()).map((dup) => ({ cmd: "publish" as const, dup, ...packet })),
  );
const puback = fc
  .record({ messageId, reasonCode: fc.constantFrom(0, 16, 135) })
  .map((one) => ({ cmd: "puback" as const, ...one }));
const other = fc.constantFrom<Packet>(
  { cmd: "connack", sessionPresent: true, reasonCode: 0, properties: { receiveMaximum: 20 } },
  { cmd: "suback", messageId: 7, granted: [1, 135] },
  { cmd: "unsuback", messageId: 8, granted: [0] },
  { cmd: "pingresp" },
  { cmd: "disconnect", reasonCode: 142 },
);
const packets = fc.array(fc.oneof(publish, puback, other), { minLength: 1, maxLength: 12 });

/** What counts of a packet, whoever read it. */
function told(packet: Packet) {
  if (packet.cmd !== "publish")
    return {
      cmd: packet.cmd,
      messageId: packet.messageId,
      reasonCode: "reasonCode" in packet ? packet.reasonCode : null,
    };
  const { topic: where, payload, qos, dup, retain, messageId: id } = packet;
  const given = Object.entries(packet.properties ?? {});
  return { where, payload: Buffer.from(payload).toString("hex"), qos, dup, retain, id: qos === 0 ? null : id, given };
}

function byLibrary(bytes: Buffer): Packet[] {
  const found: Packet[] = [];
  const read = parser(VERSION);
  read.on("packet", (packet: Packet) => found.push(packet));
  read.parse(bytes);
  return found;
}

function cutAt(bytes: Buffer, cuts: readonly number[]): Buffer[] {
  const places = [...new Set(cuts.map((cut) => cut % bytes.length))].sort((one, other) => one - other);
  return [...places, bytes.length].map((place, index) => bytes.subarray(places[index - 1] ?? 0, place));
}

describe("what the broker sends", () => {
  it("is read as the library reads it, wherever it is cut", () => {
    fc.assert(
      fc.property(packets, fc.array(fc.nat(), { maxLength: 20 }), (sent, cuts) => {
        const bytes = Buffer.concat(sent.map((packet) => generate(packet as Packet, VERSION)));
        const reader = new FrameReader(LARGEST);
        const read = cutAt(bytes, cuts).flatMap((piece) => reader.push(piece));
        expect(read.map(told)).toEqual(byLibrary(bytes).map(told));
      }),
    );
  });

  it("byte by byte is read as in one piece", () => {
    const bytes = Buffer.concat([
      generate(
        {
          cmd: "publish",
          topic: "a/b",
          payload: Buffer.alloc(300, 1),
          qos: 1,
          messageId: 3,
          dup: false,
          retain: false,
        },
        VERSION,
      ),
      generate({ cmd: "puback", messageId: 4, reasonCode: 16 }, VERSION),
    ]);
    const reader = new FrameReader(LARGEST);
    const read = [...bytes].flatMap((byte) => reader.push(Buffer.from([byte])));
    expect(read.map(told)).toEqual(new FrameReader(LARGEST).push(bytes).map(told));
    expect(read).toHaveLength(2);
  });

  it("is refused when it has no length, or is longer than was agreed", () => {
    expect(() => new FrameReader(LARGEST).push(Buffer.from([0x30, 0xff, 0xff, 0xff, 0xff, 0x01]))).toThrow(
      "without a length",
    );
    expect(() => new FrameReader(100).push(Buffer.from([0x30, 0x80, 0x01]))).toThrow("a packet of 131 bytes");
  });

  it("never throws anything but an error, whatever bytes come", () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 60 }), (bytes) => {
        try {
          new FrameReader(LARGEST).push(Buffer.from(bytes));
        } catch (error) {
          expect(error).toBeInstanceOf(Error);
        }
      }),
    );
  });
});
