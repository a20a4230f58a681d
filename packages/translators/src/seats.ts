/** The channels of a translated device, as the far side numbers and wires them. */
import { kindOf, type Seat } from "@bold-relay/core";
import type { TranslatedDevice } from "./plan.ts";

/** Towards the service nothing is wired the other way round: the device's own side says so, in `farSeat`. */
export function seatsOf({ channels, indexFrom = 1 }: TranslatedDevice): Seat[] {
  return channels.map(({ slug, kind, index }, place) => ({
    slug,
    kind: kindOf(kind),
    index: index ?? place + indexFrom,
    reversed: false,
  }));
}

/** The same channel as the device has it wired. */
export function farSeat({ channels }: TranslatedDevice, seat: Seat): Seat {
  const reversed = channels.find(({ slug }) => slug === seat.slug)?.reversed ?? false;
  return { ...seat, reversed };
}
