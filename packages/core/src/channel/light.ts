/** A light on a circuit of its own, lit or unlit. */
import type { ChannelKind } from "./kind.ts";

export const light: ChannelKind = {
  name: "light",
  about: "a lamp circuit that is lit (on) or unlit (off)",
  actions: { on: "on", off: "off" },
};
