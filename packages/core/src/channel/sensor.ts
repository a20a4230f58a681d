/** A reading: temperature, humidity, light. */
import type { ChannelKind } from "./kind.ts";

export const sensor: ChannelKind = {
  name: "sensor",
  about: "an input that reads a number in the unit that the channel names; it takes no commands",
  actions: {},
  range: null,
  full: 1,
  rest: 0,
  repeatable: true,
  restorable: false,
  input: { changedBy: "let the reading move", reading: true },
  nouns: [],
  verbs: {},
  trials: [],
  blinks: false,
  control: { keys: [], setting: null },
  answers: null,
  seenBy: [],
  suggestedBy: (value) => typeof value === "number",
  words: String,
};
