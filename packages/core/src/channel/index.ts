/** Every channel kind, by name. A new kind is its file plus its line here. */
import { colour } from "./colour.ts";
import { contact } from "./contact.ts";
import { dimmer } from "./dimmer.ts";
import { type ChannelKind, type ChannelRange, kindWithRange } from "./kind.ts";
import { lamps } from "./lamps.ts";
import { light } from "./light.ts";
import { motor } from "./motor.ts";
import { position } from "./position.ts";
import { pulse } from "./pulse.ts";
import { relay } from "./relay.ts";
import { sensor } from "./sensor.ts";
import { setpoint } from "./setpoint.ts";

export const channelKinds = {
  relay,
  light,
  dimmer,
  colour,
  lamps,
  pulse,
  motor,
  position,
  setpoint,
  contact,
  sensor,
} satisfies Record<string, ChannelKind>;

export type KindName = keyof typeof channelKinds;
export const kindNames = Object.keys(channelKinds) as KindName[];

/** The kind of this name. */
export function kindOf(name: KindName): ChannelKind {
  return channelKinds[name];
}

/** The kind of a channel, with the range of that channel where its kind leaves it to channels. */
export function kindOfChannel({
  kind,
  range,
}: {
  readonly kind: KindName;
  readonly range: ChannelRange | null;
}): ChannelKind {
  return range === null ? kindOf(kind) : kindWithRange(kindOf(kind), range);
}
