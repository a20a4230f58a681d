/** How values become payloads and payloads become evidence. A codec does no I/O: bytes in, meaning out. */
import type { Value } from "../channel/value.ts";
import type { Report } from "../delivery/transition.ts";
import type { CommandId } from "../id.ts";

/** A payload that means nothing in this codec, and why, in words for a log line or the wire view. */
export interface Garbled {
  readonly garbled: string;
}

export interface Acknowledgement {
  /** null: the device does not say which command it answers. */
  readonly id: CommandId | null;
  readonly ok: boolean;
  /** The device's own result code, where it gives one. */
  readonly code: number | null;
}

/** The device's word on its link: `boot` changes with every power-up. */
export interface Presence {
  readonly up: boolean;
  readonly boot: string | null;
}

export interface Codec {
  readonly name: string;
  readonly about: string;
  /** Whether an acknowledgement names its command. */
  readonly namesCommand: boolean;
  /**
   * The command payload.
   *
   * @param forMs how long the device should keep it so, ms; null: for good
   */
  encode(id: CommandId, to: Value, forMs: number | null): Uint8Array;
  /** An acknowledgement; never throws. */
  decodeDone(payload: Uint8Array): Acknowledgement | Garbled;
  /** A report of state; never throws. `live` is the link's to say, not the payload's. */
  decodeIs(payload: Uint8Array): Omit<Report, "live"> | Garbled;
  /** A presence message; never throws. */
  decodeHere(payload: Uint8Array): Presence | Garbled;
}

/** Whether decoding failed. */
export function isGarbled(decoded: object): decoded is Garbled {
  return "garbled" in decoded;
}

/** Payloads longer than this are refused unread, bytes. */
export const MAX_PAYLOAD_BYTES = 4096;
