/** What a site is made of, as people describe it: rooms hold devices, devices hold channels. */

import type { KindName } from "../channel/index.ts";
import type { ChannelRange } from "../channel/kind.ts";
import type { Calibration } from "../codec/calibration.ts";
import type { PayloadForm } from "../codec/payload-form.ts";
import type { Words } from "../codec/word-values.ts";
import type { Drive } from "../delivery/command.ts";
import type { DeliveryPolicy } from "../delivery/policy.ts";

/**
 * Topic patterns over {site}, {device}, {channel} and {index}, any legal topic (MQTT 5, section 4.7); null where a device has no
 * such topic. `do` is null for devices that only report. `ask` is where it can be asked what its channels are; it may be the same
 * as `do`. `done` and `is` may be one topic: the payload then tells which it is.
 */
export interface TopicPatterns {
  readonly do: string | null;
  /** Where a stop is written, if not on `do`. */
  readonly stop?: string | null;
  readonly ask?: string | null;
  readonly done: string | null;
  readonly is: string | null;
  readonly here: string | null;
}

/** What devices of one make have in common. Data, never code. */
export interface Profile {
  readonly slug: string;
  readonly name: string;
  readonly codec: PayloadForm;
  /** What the device calls its first channel. Default 1. */
  readonly indexFrom?: 0 | 1;
  readonly topics: TopicPatterns;
  readonly delivery: Partial<DeliveryPolicy>;
  /**
   * Listen on the command topics too, and name other publishers there. On most brokers the service then no longer
   * learns that nobody listens, for it listens itself. Default false.
   */
  readonly hearOthers?: boolean;
  /**
   * Commands are retained, for boards that sleep and read theirs when they wake. The message expires with its attempt and is
   * cleared as soon as the command has ended. A board that connects meanwhile obeys it. Default false.
   */
  readonly retainCommands?: boolean;
  /**
   * Commands name the acknowledgement topic as their response topic and their id as correlation data, and the device answers with it (MQTT 5,
   * 4.10). Default false.
   */
  readonly requestResponse?: boolean;
}

/** The state of a channel, told by other channels of the site (`device/channel`). */
export type SeenBy =
  /** An input, or a reading with thresholds: on from `above`, off from `below`, as before in between. */
  | { readonly channel: string; readonly above?: number; readonly below?: number; readonly turned?: boolean }
  /** Two end contacts: neither made is between; longer than `movesWithinMs` (default 60 000) is an alert. */
  | { readonly open: string; readonly shut: string; readonly movesWithinMs?: number };

/** What a contact means when it is made. */
export const MADE = ["on", "open", "shut", "pressed"] as const;
export type Made = (typeof MADE)[number];

export interface ChannelDescription {
  readonly slug: string;
  readonly name: string;
  readonly kind: KindName;
  /** Its number on the device; default: its place in the list, counted from the profile's `indexFrom`. 0 to 65 535. */
  readonly index?: number;
  /** The number or name of its own board, where several boards are behind the topics of this device: {node} in payloads. */
  readonly node?: number | string;
  /** Wired the other way round: on is off, full is none. Default false. */
  readonly reversed?: boolean;
  /** Of a reading or a setpoint: "°C", "%", "lx". At most 12 characters. */
  readonly unit?: string;
  /** Of a setpoint: which numbers it takes. */
  readonly range?: ChannelRange;
  /** Topics of this channel alone, in place of its profile's and its device's. */
  readonly topics?: Partial<Omit<TopicPatterns, "here">>;
  /** Words of this channel alone, in place of its profile's. */
  readonly words?: Words;
  readonly calibration?: Calibration;
  /** Default `set`. */
  readonly drive?: Drive;
  /** Its state comes from elsewhere: what its own device reports then only acknowledges. */
  readonly seenBy?: SeenBy;
  /** Of a contact: what it means when it is made. Default `on`: made, and nothing more is claimed. */
  readonly made?: Made;
  /** Whether "everything" and "all" may switch it. Default: not for pulses, what is driven by impulses, held to run, or interlocked. */
  readonly inAll?: boolean;
  /** Overrides of the profile's delivery settings. */
  readonly delivery?: Partial<DeliveryPolicy>;
}

export interface DeviceDescription {
  readonly slug: string;
  /** What and where it is, in words: "relay board in the porch cupboard". */
  readonly name: string;
  readonly profile: string;
  /** Topics of this device alone, in place of its profile's. */
  readonly topics?: Partial<TopicPatterns>;
  readonly channels: readonly ChannelDescription[];
}

export interface RoomDescription {
  readonly slug: string;
  readonly name: string;
  readonly devices: readonly DeviceDescription[];
}

/** Channels that are asked as one: whatever is asked of the group is asked of each. */
export interface GroupDescription {
  readonly slug: string;
  readonly name: string;
  /** `device/channel`, within the site. */
  readonly channels: readonly string[];
}

/** A set of channels and what each becomes when the scene is recalled. */
export interface SceneDescription {
  readonly slug: string;
  readonly name: string;
  readonly sets: readonly { readonly channel: string; readonly action: string; readonly value?: number | string }[];
}

/** Channels of which one at most may be on. */
export interface InterlockDescription {
  readonly name: string;
  readonly channels: readonly string[];
  /** Least time between one being seen off and the next being switched on, ms. */
  readonly gapMs?: number;
  /** What a request for one meets while another is on: it is refused, or the other is switched off first. */
  readonly meets: "refuse" | "switch-off";
}

export interface SiteDescription {
  readonly slug: string;
  readonly name: string;
  /** IANA time zone of the place, for the times in its history and records. Default: the reader's. */
  readonly timeZone?: string;
  readonly rooms: readonly RoomDescription[];
  readonly groups?: readonly GroupDescription[];
  readonly scenes?: readonly SceneDescription[];
  readonly interlocks?: readonly InterlockDescription[];
}
