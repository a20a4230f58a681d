/** Every channel kind, by name. A new kind is its file plus its line here. */
import { colour } from "./colour.ts";
import { contact } from "./contact.ts";
import { dimmer } from "./dimmer.ts";
import type { ChannelKind } from "./kind.ts";
import { lamps } from "./lamps.ts";
import { light } from "./light.ts";
import { motor } from "./motor.ts";
import { position } from "./position.ts";
import { pulse } from "./pulse.ts";
import { relay } from "./relay.ts";
import { sensor } from "./sensor.ts";

export const channelKinds = {
  relay,
  light,
  dimmer,
  colour,
  lamps,
  pulse,
  motor,
  position,
  contact,
  sensor,
} satisfies Record<string, ChannelKind>;

export type KindName = keyof typeof channelKinds;
export const kindNames = Object.keys(channelKinds) as KindName[];

/** The kind of this name. */
export function kindOf(name: KindName): ChannelKind {
  return channelKinds[name];
}
