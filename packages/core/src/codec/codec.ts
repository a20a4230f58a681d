/** How values become payloads and payloads become evidence. A codec does no I/O: bytes in, meaning out. */
import type { ChannelKind } from "../channel/kind.ts";
import type { Colour, Value } from "../channel/value.ts";
import type { Report } from "../delivery/command-event.ts";
import type { CommandId } from "../id.ts";
import type { Calibration } from "./calibration.ts";
import type { Scalar, Words } from "./word-values.ts";

/** A payload that means nothing in this codec, and why, in words for a log line or the wire view. */
export interface Garbled {
  readonly garbled: string;
  /** Of an answer: it has a result, and that is neither a yes nor a no. Whatever else the message says proves nothing. */
  readonly unreadable?: true;
  /** Nothing in it was found that could tell which channel it is about. */
  readonly unattributed?: true;
}

export interface Acknowledgement {
  /** null: the device does not say which command it answers. */
  readonly id: CommandId | null;
  /** The short number of the command that it answers; see `shortNumber`. */
  readonly number?: number;
  /** null: whoever answers has passed it on and does not know what became of it. */
  readonly ok: boolean | null;
  /** The device's own result code, where it gives one. */
  readonly code: number | null;
  /** In its own words, at most 120 characters. */
  readonly why?: string;
}

/** The device's word on its link: `boot` changes with every power-up. */
export interface Presence {
  readonly up: boolean;
  readonly boot: string | null;
}

/** The channel that payloads are about: what they need to know of it. */
export interface ChannelBinding {
  /** Its name on the device: "porch". */
  readonly slug: string;
  /** Its number on the device, as the device counts. */
  readonly index: number;
  readonly kind: ChannelKind;
  /** The board's own number or name behind a topic that several share. */
  readonly node?: string | number;
  /** Wired the other way round: on is off, full is none. */
  readonly reversed: boolean;
  /** Its place among the device's numbers, from 0: for what a profile lists channel by channel. Default 0. */
  readonly place?: number;
  /** Where one number tells all channels of the board: what the others add to it. Default 0: all of them are off. */
  readonly others?: number;
  /** Its own words, where it does not have those of the profile. */
  readonly words?: Words;
  readonly calibration?: Calibration;
}

/** What is written for levels and colours, on the device's own scale: what a report must be to confirm them. */
export interface LevelScale {
  /** The level that the number stands for which is written for a level, unrounded. */
  levelWritten(level: number): number;
  /** Between which levels a report must lie to be a level. @param tolerance in the device's own numbers */
  spanAround(level: number, tolerance: number): readonly [least: number, most: number];
  /** The colour that what is written for a colour stands for: a device that counts hue in degrees cannot be told every one. */
  colourWritten(colour: Colour): Colour;
}

/** How one channel of a form says values beside payloads. */
export interface Aside {
  write(to: Value): Scalar;
  /** @returns null when it is no value of this channel */
  read(raw: string): Value | null;
}

/** A codec with its settings, for one channel. */
export interface ChannelCodec {
  /** Whether an acknowledgement names its command. */
  readonly namesCommand: boolean;
  /** Whether a payload names its channel, so that several may share a topic. */
  readonly namesChannel: { readonly do: boolean; readonly done: boolean; readonly is: boolean };
  /** What a value of this channel adds to the one number that tells all channels of its board; null: each command tells one channel. */
  readonly bitOf: ((value: Value) => number) | null;
  /** How values stand in topics. */
  readonly aside: Aside;
  /** How levels are compared: on the device's own scale. */
  readonly levels: LevelScale;
  /**
   * The command payload.
   *
   * @param forMs how long the device should keep it so, ms; null: for good
   * @param others what the other channels add to a number that tells all; see `bitOf`
   */
  encode(id: CommandId, to: Value, forMs: number | null, others?: number): Uint8Array;
  /** What asks the device to say what the channel is, where its profile has a topic for that. */
  encodeAsk(id: CommandId): Uint8Array;
  /** An acknowledgement; null: it is about another channel. Never throws. */
  decodeDone(payload: Uint8Array): Acknowledgement | Garbled | null;
  /** A report of state; null: it is about another channel. Never throws. `live` is the link's to say, not the payload's. */
  decodeIs(payload: Uint8Array): DecodedReport | Garbled | null;
}

export type DecodedReport = Omit<Report, "live"> & {
  /** The short number of the command that it names; see `shortNumber`. */
  readonly number?: number;
};

/** What a device hears. */
export interface DecodedCommand {
  /** null: the form has no ids. */
  readonly id: string | null;
  readonly to: Value;
  /** For how long, ms; null: for good. */
  readonly forMs: number | null;
}

/** The device's side of a form: what its makers have written. For stand-ins, and to test one side against the other. */
export interface Firmware {
  /** See `ChannelCodec.bitOf`. */
  readonly bitOf: ((value: Value) => number) | null;
  /** Whether it is asked what this channel is; on a topic of one's own for that, everything asks. */
  isAsked(payload: Uint8Array): boolean;
  /** null: a command for another channel, or none at all. */
  hear(payload: Uint8Array): DecodedCommand | null;
  /** An answer; null: this device does not answer so. */
  answer(id: string | null, ok: boolean | null, code: number, why?: string): Uint8Array | null;
  /** @param others what the other channels add to a number that tells all; default: they are off */
  report(
    value: Value,
    by: "command" | "hand" | "timer" | "boot" | null,
    id: string | null,
    others?: number,
  ): Uint8Array;
}

/** One form of payload. A new form is its file plus its line in `index.ts`. */
export interface Codec<Settings> {
  readonly name: string;
  readonly about: string;
  bind(settings: Settings, binding: ChannelBinding): ChannelCodec;
  firmware(settings: Settings, binding: ChannelBinding): Firmware;
  /** A presence message; never throws. */
  decodeHere(settings: Settings, payload: Uint8Array): Presence | Garbled;
  /** What a device of this form says of itself: for stand-ins, and for the last will that its makers set. */
  encodeHere(settings: Settings, presence: Presence): Uint8Array;
}

/** Whether decoding failed. */
export function isGarbled(decoded: unknown): decoded is Garbled {
  return typeof decoded === "object" && decoded !== null && "garbled" in decoded;
}

/** Payloads longer than this are refused unread, bytes. */
export const MAX_PAYLOAD_BYTES = 4096;
