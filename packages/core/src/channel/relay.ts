/** A relay: a contact that is made or open. */
import type { ChannelKind } from "./kind.ts";

export const relay: ChannelKind = {
  name: "relay",
  about: "a contact that is made (on) or open (off)",
  actions: { on: "on", off: "off" },
};
