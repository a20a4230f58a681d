/** A pulse contact: it closes for a moment and opens by itself, as a gate or a door opener wants it. */
import type { ChannelKind } from "./kind.ts";

export const pulse: ChannelKind = {
  name: "pulse",
  about: "a contact that closes for a moment, for a gate or a door opener; one request never closes it twice",
  actions: { pulse: { asks: "to", to: "pulse" } },
  range: null,
  full: "pulse",
  rest: "off",
  repeatable: false,
  restorable: false,
  input: false,
  nouns: [],
  verbs: { pulse: "pulse", press: "pulse", push: "pulse", trigger: "pulse" },
  trials: [{ action: "pulse" }],
  blinks: false,
  control: { keys: ["pulse"], setting: null },
  answers: null,
  seenBy: [],
  suggestedBy: null,
  words: String,
};
