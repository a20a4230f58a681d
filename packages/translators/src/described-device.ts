/** A device as a plan describes it, however it is reached. */
import type { KindName } from "@bold-relay/core";

export interface DescribedDevice {
  readonly site: string;
  readonly device: string;
  /** Its own credentials at the broker, as any device has them. */
  readonly username?: string;
  readonly password?: string;
  /** What the device calls its first channel. Default 1. */
  readonly indexFrom?: 0 | 1;
  readonly channels: readonly {
    readonly slug: string;
    readonly kind: KindName;
    readonly index?: number;
    readonly reversed?: boolean;
  }[];
}
