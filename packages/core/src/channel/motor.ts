/** A motor that runs until it is told to stop: a skylight, a vent. */
import type { ChannelKind } from "./kind.ts";

export const motor: ChannelKind = {
  name: "motor",
  about: "a motor that runs, from -100 (closing at full speed) over 0 (standing) to 100 % (opening at full speed)",
  actions: {
    open: { asks: "to", to: 100 },
    close: { asks: "to", to: -100 },
    stop: { asks: "to", to: 0, urgent: true },
    level: { asks: "level" },
  },
  range: { least: -100, most: 100, unit: "%" },
  full: 100,
  rest: 0,
  repeatable: true,
  restorable: false,
  input: false,
  nouns: [["motor", "motors"]],
  verbs: {},
  trials: [{ action: "open" }, { action: "stop" }],
  blinks: false,
  control: { keys: ["close", "stop", "open"], setting: null },
  answers: "switched",
  seenBy: [],
  suggestedBy: null,
  words(value) {
    if (typeof value !== "number") return value === "on" ? "running, speed not reported" : value;
    return value === 0 ? "standing" : `${value > 0 ? "opening" : "closing"} at ${Math.abs(value)} %`;
  },
};
