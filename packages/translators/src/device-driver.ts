/** What stands behind a translator: a device that speaks no MQTT, reached in its own way. */
import type { ChannelBinding, Value } from "@bold-relay/core";

export interface FarOrder {
  /** The command's own id, so that a device that can tell repeats may do so. */
  readonly id: string;
  readonly binding: ChannelBinding;
  readonly to: Value;
  /** For how long, ms; null: for good. The translator ends it by itself; this is for a device that can too. */
  readonly forMs: number | null;
}

/**
 * How it went.
 * - ok true: it was taken; `is` what the device says it is now, null where it does not say
 * - ok false: it was certainly not done
 * - ok null: it was passed on, and nobody knows
 */
export type FarAnswer =
  | { readonly ok: true; readonly is: Value | null }
  | { readonly ok: false; readonly code: number; readonly why: string }
  | { readonly ok: null; readonly why: string };

export interface FarEvents {
  /** It can be reached, or it cannot. Told at every change. */
  reachable(up: boolean): void;
  /** What a channel is by the device's own word. `by` null: it does not say why. */
  observed(binding: ChannelBinding, value: Value, by: "hand" | "timer" | "boot" | null): void;
}

/** One device, reached in its own way. Each way is a file in `reach/`. */
export interface DeviceDriver {
  start(events: FarEvents): Promise<void>;
  /** Never rejects. */
  tell(order: FarOrder): Promise<FarAnswer>;
  stop(): Promise<void>;
}

/** Result codes of translators, told with words beside them. Devices' own codes stay below 700. */
export const CODES = {
  /** The device cannot be reached, so nothing was sent. */
  linkDown: 701,
  /** The device is reached through something that it did not ask in time. */
  notFetched: 702,
  /** Too much is waiting for this device already. */
  busy: 703,
  /** This device cannot be told this. */
  cannot: 704,
  /** The device said no, without a code of its own. */
  refused: 705,
} as const;

/** Said of a device at most, characters. */
const MOST_QUOTED = 60;

/** What a device said, fit to be shown to people. */
export function quoted(text: string): string {
  const plain = text.replace(/[\p{Cc}\p{Cf}\s]+/gu, " ").trim();
  return `“${plain.length > MOST_QUOTED ? `${plain.slice(0, MOST_QUOTED)}…` : plain}”`;
}
