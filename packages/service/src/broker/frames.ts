/** What is written most, as bytes: PUBLISH and PUBACK (MQTT 5, 3.3 and 3.4). All other packets come from the library. */

const PUBLISH = 0x30;
const PUBACK = 0x40;
/** Property identifiers (MQTT 5, 2.2.2.2). */
const EXPIRY = 0x02;
const RESPONSE_TOPIC = 0x08;
const CORRELATION = 0x09;
const USER = 0x26;
const TRACE = "traceparent";
const TRACE_BYTES = Buffer.byteLength(TRACE);

export interface Publish {
  readonly topic: string;
  readonly payload: Uint8Array;
  readonly qos: 0 | 1;
  /** How long the broker keeps it for a subscriber, s. */
  readonly expiryS?: number;
  /** Goes along as a user property. */
  readonly traceparent?: string;
  /** Where it is answered (3.3.2.3.5). */
  readonly responseTopic?: string;
  readonly correlation?: Uint8Array;
  /** Kept for whoever subscribes later (3.3.1.3). Default false. */
  readonly retain?: boolean;
}

/**
 * Never marked as sent again: whoever sends again does so as something new.
 *
 * @param messageId 1 to 65 535; of QoS 0 it is left out
 */
export function publishFrame(publish: Publish, messageId: number): Buffer {
  const { topic, payload, qos, expiryS, traceparent, responseTopic, correlation, retain = false } = publish;
  const topicBytes = Buffer.byteLength(topic);
  const traceBytes = traceparent === undefined ? 0 : Buffer.byteLength(traceparent);
  const propertyBytes =
    (expiryS === undefined ? 0 : 5) +
    (responseTopic === undefined ? 0 : 3 + Buffer.byteLength(responseTopic)) +
    (correlation === undefined ? 0 : 3 + correlation.length) +
    (traceparent === undefined ? 0 : 5 + TRACE_BYTES + traceBytes);
  const length = 2 + topicBytes + (qos === 0 ? 0 : 2) + widthOf(propertyBytes) + propertyBytes + payload.length;
  const frame = Buffer.allocUnsafe(1 + widthOf(length) + length);
  let at = frame.writeUInt8(PUBLISH | (qos << 1) | (retain ? 1 : 0), 0);
  at = writeLength(frame, length, at);
  at = frame.writeUInt16BE(topicBytes, at);
  at += frame.write(topic, at);
  if (qos !== 0) at = frame.writeUInt16BE(messageId, at);
  at = writeLength(frame, propertyBytes, at);
  if (expiryS !== undefined) at = frame.writeUInt32BE(expiryS, frame.writeUInt8(EXPIRY, at));
  if (responseTopic !== undefined) {
    at = frame.writeUInt16BE(Buffer.byteLength(responseTopic), frame.writeUInt8(RESPONSE_TOPIC, at));
    at += frame.write(responseTopic, at);
  }
  if (correlation !== undefined) {
    at = frame.writeUInt16BE(correlation.length, frame.writeUInt8(CORRELATION, at));
    frame.set(correlation, at);
    at += correlation.length;
  }
  if (traceparent !== undefined) {
    at = frame.writeUInt16BE(TRACE_BYTES, frame.writeUInt8(USER, at));
    at += frame.write(TRACE, at);
    at = frame.writeUInt16BE(traceBytes, at);
    at += frame.write(traceparent, at);
  }
  frame.set(payload, at);
  return frame;
}

/** That it came and is taken: reason 0, which may be left out (3.4.2.1). */
export function pubackFrame(messageId: number): Buffer {
  const frame = Buffer.allocUnsafe(4);
  frame.writeUInt16BE((PUBACK << 8) | 2, 0);
  frame.writeUInt16BE(messageId, 2);
  return frame;
}

/** How many bytes a length takes (variable byte integer, 1.5.5). */
function widthOf(length: number): number {
  return length < 128 ? 1 : length < 16_384 ? 2 : length < 2_097_152 ? 3 : 4;
}

function writeLength(frame: Buffer, length: number, start: number): number {
  let at = start;
  let rest = length;
  do {
    const more = rest >= 128;
    frame[at] = (rest & 0x7f) | (more ? 0x80 : 0);
    rest >>= 7;
    at += 1;
  } while (rest > 0);
  return at;
}
