/** What is written to the broker as bytes of our own is what the library would read. */
import fc from "fast-check";
import { type Packet, parser } from "mqtt-packet";
import { describe, expect, it } from "vitest";
import { pubackFrame, publishFrame } from "../src/broker/frames.ts";

function readBack(frame: Buffer): Packet[] {
  const found: Packet[] = [];
  const read = parser({ protocolVersion: 5 });
  read.on("packet", (packet: Packet) => found.push(packet));
  read.on("error", (error: unknown) => {
    throw error as Error;
  });
  read.parse(frame);
  return found;
}

const topic = fc.string({ unit: "grapheme", minLength: 1, maxLength: 60 }).filter((text) => !/[+#\0]/.test(text));

describe("a frame", () => {
  it("of a publish holds what it was given, and nothing else", () => {
    const publish = fc.record(
      {
        topic,
        payload: fc.uint8Array({ maxLength: 300 }),
        qos: fc.constantFrom(0 as const, 1 as const),
        expiryS: fc.integer({ min: 1, max: 86_400 }),
        traceparent: fc.string({ unit: "grapheme-ascii", maxLength: 60 }),
        correlation: fc.uint8Array({ maxLength: 30 }),
      },
      { requiredKeys: ["topic", "payload", "qos"] },
    );
    fc.assert(
      fc.property(publish, fc.integer({ min: 1, max: 65_535 }), (given, messageId) => {
        const [packet, ...more] = readBack(publishFrame(given, messageId));
        expect(more).toEqual([]);
        if (packet?.cmd !== "publish") throw new Error("no publish");
        const { properties } = packet;
        expect(packet).toMatchObject({ topic: given.topic, qos: given.qos, retain: false, dup: false });
        expect([...(packet.payload as Buffer)]).toEqual([...given.payload]);
        expect(packet.messageId).toBe(given.qos === 0 ? undefined : messageId);
        expect(properties?.messageExpiryInterval).toBe(given.expiryS);
        expect(properties?.userProperties?.traceparent).toBe(given.traceparent);
        const correlation = properties?.correlationData;
        expect(correlation && [...correlation]).toEqual(given.correlation && [...given.correlation]);
      }),
    );
  });

  it.each([0, 120, 127, 128, 16_383, 16_384, 200_000])("of %d bytes says how long it is", (length) => {
    const frame = publishFrame({ topic: "a", payload: Buffer.alloc(length, 7), qos: 1 }, 9);
    expect(readBack(Buffer.concat([frame, frame]))).toHaveLength(2);
  });

  it("of an acknowledgement names the message", () => {
    for (const messageId of [1, 255, 256, 65_535])
      expect(readBack(pubackFrame(messageId))).toMatchObject([{ cmd: "puback", messageId, reasonCode: 0 }]);
  });
});
