/** A relay: a contact that is made or open. */
import type { ChannelKind } from "./kind.ts";

export const relay: ChannelKind = {
  name: "relay",
  about: "a contact that is made (on) or open (off)",
  actions: {
    on: { asks: "to", to: "on" },
    off: { asks: "to", to: "off" },
    toggle: { asks: "toggle" },
    back: { asks: "back" },
  },
  range: null,
  full: "on",
  rest: "off",
  repeatable: true,
  restorable: true,
  input: false,
  nouns: [["relay", "relays"]],
  verbs: {},
  trials: [{ action: "on" }, { action: "off" }],
  blinks: false,
  control: { keys: ["off", "on"], setting: null },
  answers: "switched",
  seenBy: ["one"],
  suggestedBy: (value) => value === "on" || value === "off",
  words: String,
};
