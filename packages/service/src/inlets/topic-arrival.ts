/** What a message on a topic brings. */
import { type Arrival, decodeText, NO_ARRIVAL, payloadText, plainText } from "@bold-relay/core";

const MOST_TEXT = 4_096;

export function topicArrival(topic: string, payload: Uint8Array): Arrival {
  const text = textOf(payload);
  const hex = isPlain(text, payload) ? null : Buffer.from(payload).toString("hex");
  return { ...NO_ARRIVAL, topic, text, hex, fields: documentIn(text) };
}

function textOf(message: Uint8Array): string {
  try {
    return decodeText(message).slice(0, MOST_TEXT);
  } catch {
    return payloadText(message);
  }
}

function isPlain(text: string, payload: Uint8Array): boolean {
  return plainText(text) === text && Buffer.from(payload).equals(Buffer.from(text));
}

/** Most payloads are a bare word: trying and failing to read each as JSON would cost more than all the rest. */
function documentIn(text: string): unknown {
  if (!/^\s*[[{"]/.test(text)) return null;
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
