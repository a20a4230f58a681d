/** What a site is made of, as people describe it: rooms hold devices, devices hold channels. */
import type { KindName } from "../channel/index.ts";
import type { PayloadForm } from "../codec/index.ts";
import type { DeliveryPolicy } from "../delivery/policy.ts";

/** What devices of one make have in common. Data, never code. */
export interface Profile {
  readonly slug: string;
  readonly name: string;
  readonly codec: PayloadForm;
  /** What the device calls its first channel. Default 1. */
  readonly indexFrom?: 0 | 1;
  /**
   * Topic patterns over {site}, {device}, {channel} and {index}; null where this device has no such topic. `do` is null
   * for devices that only report. `ask` is where it can be asked what its channels are; it may be the same as `do`.
   */
  readonly topics: {
    readonly do: string | null;
    readonly ask?: string | null;
    readonly done: string | null;
    readonly is: string | null;
    readonly here: string | null;
  };
  readonly delivery: Partial<DeliveryPolicy>;
  /**
   * Listen on the command topics too, and name other publishers there. On most brokers the service then no longer
   * learns that nobody listens, for it listens itself. Default false.
   */
  readonly hearOthers?: boolean;
}

export interface ChannelDescription {
  readonly slug: string;
  readonly name: string;
  readonly kind: KindName;
  /** Its number on the device; default: its place in the list, counted from the profile's `indexFrom`. 0 to 65 535. */
  readonly index?: number;
  /** Wired the other way round: on is off, full is none. Default false. */
  readonly reversed?: boolean;
  /** Of a reading: "°C", "%", "lx". At most 12 characters. */
  readonly unit?: string;
  /** Overrides of the profile's delivery settings. */
  readonly delivery?: Partial<DeliveryPolicy>;
}

export interface DeviceDescription {
  readonly slug: string;
  /** What and where it is, in words: "relay board in the porch cupboard". */
  readonly name: string;
  readonly profile: string;
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
  readonly rooms: readonly RoomDescription[];
  readonly groups?: readonly GroupDescription[];
  readonly scenes?: readonly SceneDescription[];
  readonly interlocks?: readonly InterlockDescription[];
}
