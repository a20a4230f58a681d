/** What a site is made of, as people describe it: rooms hold devices, devices hold channels. */
import type { KindName } from "../channel/index.ts";
import type { CodecName } from "../codec/index.ts";
import type { DeliveryPolicy } from "../delivery/policy.ts";

/** What devices of one make have in common. Data, never code. */
export interface Profile {
  readonly slug: string;
  readonly name: string;
  readonly codec: CodecName;
  /** Topic patterns over {site}, {device} and {channel}; null where this device has no such topic. */
  readonly topics: {
    readonly do: string;
    readonly done: string | null;
    readonly is: string | null;
    readonly here: string | null;
  };
  readonly delivery: Partial<DeliveryPolicy>;
}

export interface ChannelDescription {
  readonly slug: string;
  readonly name: string;
  readonly kind: KindName;
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

export interface SiteDescription {
  readonly slug: string;
  readonly name: string;
  readonly rooms: readonly RoomDescription[];
}
