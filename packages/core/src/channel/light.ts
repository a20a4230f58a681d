/** A light on a circuit of its own, lit or unlit. */
import type { ChannelKind } from "./kind.ts";
import { relay } from "./relay.ts";

export const light: ChannelKind = {
  ...relay,
  name: "light",
  about: "a lamp circuit that is lit (on) or unlit (off)",
  nouns: [
    ["light", "lights"],
    ["lamp", "lamps"],
  ],
  blinks: true,
  suggestedBy: null,
};
