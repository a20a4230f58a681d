/**
 * What one message says of one channel. Where a topic carries acknowledgements and reports, a message may be either, or both at
 * once. Then its result has the first word: with one that is not a yes, its state part proves nothing. Pure.
 */
import { type Acknowledgement, type ChannelCodec, type DecodedReport, type Garbled, isGarbled } from "./codec.ts";

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
export function readMessage(codec: ChannelCodec, { done, is }: TopicRoles, payload: Uint8Array): MessageRead | null {
  if (!done) return reportOnly(codec, payload);
  const answer = codec.decodeDone(payload);
  if (answer === null) return null;
  if (!isGarbled(answer)) {
    const report = is && answer.ok === true ? codec.decodeIs(payload) : null;
    const read = report === null || isGarbled(report) ? null : report;
    return { answer, report: read, garbled: null, unattributed: false };
  }
  if (!is || answer.unreadable) return garbledMessage(answer, codec.namesChannel.done);
  return reportOnly(codec, payload);
}

function reportOnly(codec: ChannelCodec, payload: Uint8Array): MessageRead | null {
  const report = codec.decodeIs(payload);
  if (report === null) return null;
  if (isGarbled(report)) return garbledMessage(report, codec.namesChannel.is);
  return { answer: null, report, garbled: null, unattributed: false };
}

function garbledMessage({ garbled, unattributed }: Garbled, namesChannel: boolean): MessageRead {
  return { answer: null, report: null, garbled, unattributed: unattributed === true && namesChannel };
}
