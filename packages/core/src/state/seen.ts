/** A channel's state as other channels tell it: a contact, a meter with thresholds, the two end contacts of a gate. Pure. */
import type { ChannelKind } from "../channel/kind.ts";
import { isOn, type Value } from "../channel/value.ts";
import type { SeenBy } from "../site/model.ts";

/** The channels that tell a state, as `device/channel` within the site. */
export function sourcesOf(seenBy: SeenBy): readonly string[] {
  return "channel" in seenBy ? [seenBy.channel] : [seenBy.open, seenBy.shut];
}

/**
 * @param known what a source is; null: nobody knows
 * @param before what the channel was seen to be before, for what lies between two thresholds
 * @returns null when the sources tell nothing, or contradict each other
 * @example seenValue({ channel: "meter/power", above: 20, below: 5 }, relay, () => 40, null) // → "on"
 */
export function seenValue(
  seenBy: SeenBy,
  kind: ChannelKind,
  known: (path: string) => Value | null,
  before: Value | null,
): Value | null {
  if ("open" in seenBy) return betweenEnds(kind, known(seenBy.open), known(seenBy.shut));
  const value = known(seenBy.channel);
  if (value === null) return null;
  const on = seenOn(seenBy, value, before);
  if (on === null) return null;
  if (on !== (seenBy.turned ?? false)) return kind.answers === "opening" ? "between" : kind.full;
  return kind.rest;
}

function seenOn({ above, below }: Extract<SeenBy, { channel: string }>, value: Value, before: Value | null) {
  if (typeof value !== "number") return isOn(value);
  const [high, low] = [above ?? below ?? 0, below ?? above ?? 0];
  if (value > high) return true;
  if (value < low || (high === low && value <= low)) return false;
  // In between it stays what it was: a value that trembles at one threshold must not switch to and fro.
  return before === null ? null : isOn(before);
}

/** Both made at once cannot be: then a contact is wrong. */
function betweenEnds(kind: ChannelKind, open: Value | null, shut: Value | null): Value | null {
  if (open === null || shut === null) return null;
  const [isOpen, isShut] = [isOn(open), isOn(shut)];
  if (isOpen && isShut) return null;
  if (isOpen) return kind.full;
  return isShut ? kind.rest : "between";
}
