/** A number that a device keeps to: the temperature of a room, the colour temperature of a lamp, the speed of a pump. */
import type { ChannelKind } from "./kind.ts";

export const setpoint: ChannelKind = {
  name: "setpoint",
  about: "a number that a device keeps to, in the unit and within the range of its channel: a thermostat, a white lamp",
  actions: {
    level: { asks: "level" },
    raise: { asks: "step", sign: 1 },
    lower: { asks: "step", sign: -1 },
    back: { asks: "back" },
  },
  range: { least: 0, most: 100, step: 1, unit: "", ofChannel: true },
  full: 100,
  rest: 0,
  repeatable: true,
  restorable: true,
  input: false,
  nouns: [["setpoint", "setpoints"]],
  verbs: {},
  trials: [],
  blinks: false,
  control: { keys: ["lower", "raise"], setting: "level" },
  answers: null,
  seenBy: [],
  suggestedBy: null,
  words: String,
};
