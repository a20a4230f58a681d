/**
 * What one message says of one channel. Where a topic carries acknowledgements and reports, a message may be either, or both at
 * once. Then its result has the first word: with one that is not a yes, its state part proves nothing. Pure.
 */

import type { InTopic } from "./aside.ts";
import { type Acknowledgement, type ChannelCodec, type DecodedReport, type Garbled, isGarbled } from "./codec.ts";
import { idFrom, NO, numberIn, resultOf, YES } from "./text.ts";

/** What stands beside the payload: in the topic, or as correlation data (MQTT 5, 3.3.2.3.6). */
export interface BesidePayload {
  readonly done: InTopic;
  readonly is: InTopic;
  readonly correlation: string | null;
}

/** What a topic may carry. */
export interface TopicRoles {
  readonly done: boolean;
  readonly is: boolean;
}

export interface MessageRead {
  readonly answer: Acknowledgement | null;
  readonly report: DecodedReport | null;
  /** Why it means nothing; null: it means something. */
  readonly garbled: string | null;
  /** Of one that means nothing: nothing in it tells which channel it is about, where a message of its form would. */
  readonly unattributed: boolean;
}

/**
 * @returns null when it is about another channel
 * @example readMessage(codec, { done: true, is: true }, bytes of {"id":…,"ok":false,"code":4,"to":"on"})
 *   // → { answer: { ok: false, code: 4, … }, report: null, garbled: null }
 */
export function readMessage(
  codec: ChannelCodec,
  { done, is }: TopicRoles,
  payload: Uint8Array,
  beside: BesidePayload = NOTHING_BESIDE,
): MessageRead | null {
  if (!done) return reportOnly(codec, payload, beside);
  const answer = answerIn(codec, payload, beside);
  if (answer === null) return null;
  if (!isGarbled(answer)) {
    const report = is && answer.ok === true ? reportIn(codec, payload, beside) : null;
    const read = report === null || isGarbled(report) ? null : report;
    return { answer, report: read, garbled: null, unattributed: false };
  }
  if (!is || answer.unreadable) return garbledMessage(answer, codec.namesChannel.done);
  return reportOnly(codec, payload, beside);
}

const NOTHING_BESIDE: BesidePayload = { done: {}, is: {}, correlation: null };

/** What an acknowledgement says in its topic or its correlation data goes before what its payload says. */
function answerIn(codec: ChannelCodec, payload: Uint8Array, { done, correlation }: BesidePayload) {
  const { id = correlation, number, result } = done;
  const isBare = payload.length === 0 && (id !== null || number !== undefined);
  const found = result !== undefined || isBare ? besideAnswer(result) : codec.decodeDone(payload);
  if (found === null || isGarbled(found)) return found;
  return { ...found, id: idFrom(id) ?? found.id, ...numberIn(number) };
}

/** A result in a topic, in the words that need no profile; none: that it answers is a yes. */
function besideAnswer(result: string | undefined): Acknowledgement | Garbled {
  if (result === undefined) return { id: null, ok: true, code: null };
  const read = resultOf(result, YES, NO);
  return read
    ? { id: null, ...read }
    : { garbled: `“${result}” in the topic is neither a yes nor a no`, unreadable: true };
}

/** A value in the topic is the report, whatever the payload is. */
function reportIn(codec: ChannelCodec, payload: Uint8Array, { is: { value, id, number } }: BesidePayload) {
  const found = value === undefined ? codec.decodeIs(payload) : besideReport(codec, value);
  if (found === null || isGarbled(found)) return found;
  return { ...found, id: idFrom(id) ?? found.id, ...numberIn(number) };
}

function besideReport(codec: ChannelCodec, raw: string): DecodedReport | Garbled {
  const value = codec.aside.read(raw);
  return value === null
    ? { garbled: `“${raw}” in the topic is no value of this channel` }
    : { value, by: null, id: null };
}

function reportOnly(codec: ChannelCodec, payload: Uint8Array, beside: BesidePayload): MessageRead | null {
  const report = reportIn(codec, payload, beside);
  if (report === null) return null;
  if (isGarbled(report)) return garbledMessage(report, codec.namesChannel.is);
  return { answer: null, report, garbled: null, unattributed: false };
}

function garbledMessage({ garbled, unattributed }: Garbled, namesChannel: boolean): MessageRead {
  return { answer: null, report: null, garbled, unattributed: unattributed === true && namesChannel };
}
