/** A contact that is only looked at: a door, a window, a float switch. */
import type { ChannelKind } from "./kind.ts";

export const contact: ChannelKind = {
  name: "contact",
  about: "an input that is made (on) or not (off): a door contact, a float switch; it takes no commands",
  actions: {},
  range: null,
  full: "on",
  rest: "off",
  repeatable: true,
  restorable: false,
  input: { changedBy: "open or close the contact", reading: false },
  nouns: [],
  verbs: {},
  trials: [],
  blinks: false,
  control: { keys: [], setting: null },
  answers: "made",
  seenBy: [],
  suggestedBy: null,
  words: (value) => (value === "on" ? "made" : value === "off" ? "not made" : String(value)),
};
