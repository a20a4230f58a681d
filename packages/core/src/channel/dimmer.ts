/** A dimmer: a lamp circuit with a level in percent. */
import { type ChannelKind, DEFAULT_STEP } from "./kind.ts";

export const dimmer: ChannelKind = {
  name: "dimmer",
  about: "a lamp circuit with a level from 0 (unlit) to 100 %",
  actions: {
    on: { asks: "to", to: 100 },
    off: { asks: "to", to: 0 },
    level: { asks: "level" },
    brighter: { asks: "step", sign: 1 },
    darker: { asks: "step", sign: -1 },
    toggle: { asks: "toggle" },
    back: { asks: "back" },
  },
  range: { least: 0, most: 100, unit: "%" },
  full: 100,
  rest: 0,
  repeatable: true,
  restorable: true,
  input: false,
  nouns: [
    ["light", "lights"],
    ["lamp", "lamps"],
    ["dimmer", "dimmers"],
  ],
  verbs: {
    brighter: "brighter",
    brighten: "brighter",
    darker: "darker",
    darken: "darker",
    dimmer: "darker",
    dim: "darker",
  },
  trials: [{ action: "level", value: 30 }, { action: "level", value: 100 - DEFAULT_STEP }, { action: "off" }],
  blinks: true,
  control: { keys: ["off", "darker", "brighter", "on"], setting: "level" },
  answers: "switched",
  seenBy: [],
  suggestedBy: (value) => typeof value === "number" && Number.isInteger(value) && value >= 0 && value <= 100,
  words: (value) => (typeof value === "number" ? `${value} %` : value === "on" ? "on, level not reported" : value),
};
