/** Every channel kind, by name. A new kind is its file plus its line here. */
import type { ChannelKind } from "./kind.ts";
import { light } from "./light.ts";
import { relay } from "./relay.ts";

export const channelKinds = { relay, light } satisfies Record<string, ChannelKind>;

export type KindName = keyof typeof channelKinds;
export const kindNames = Object.keys(channelKinds) as KindName[];
