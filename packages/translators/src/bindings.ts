/** The channels of a translated device, as the far side numbers and wires them. */
import { type ChannelBinding, kindOf } from "@bold-relay/core";
import type { DescribedDevice } from "./described-device.ts";

/** Towards the service nothing is wired the other way round: the device's own side says so, in `deviceBinding`. */
export function bindingsOf({ channels, indexFrom = 1 }: DescribedDevice): ChannelBinding[] {
  return channels.map(({ slug, kind, index }, place) => ({
    slug,
    kind: kindOf(kind),
    index: index ?? place + indexFrom,
    reversed: false,
  }));
}

/** The same channel as the device has it wired. */
export function deviceBinding({ channels }: DescribedDevice, binding: ChannelBinding): ChannelBinding {
  const reversed = channels.find(({ slug }) => slug === binding.slug)?.reversed ?? false;
  return { ...binding, reversed };
}
