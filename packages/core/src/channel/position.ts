/** Something that stands anywhere between shut and open: a blind, a valve, a damper. It travels for a while. */
import type { ChannelKind } from "./kind.ts";

export const position: ChannelKind = {
  name: "position",
  about: "a blind, a valve or a damper that stands anywhere from 0 (shut) to 100 % (open)",
  actions: {
    open: { asks: "to", to: 100 },
    close: { asks: "to", to: 0 },
    stop: { asks: "to", to: "stop", urgent: true },
    level: { asks: "level" },
    toggle: { asks: "toggle" },
  },
  range: { least: 0, most: 100, unit: "%" },
  full: 100,
  rest: 0,
  repeatable: true,
  restorable: false,
  input: false,
  nouns: [
    ["blind", "blinds"],
    ["shade", "shades"],
  ],
  verbs: {},
  trials: [{ action: "level", value: 30 }, { action: "close" }],
  blinks: false,
  control: { keys: ["close", "stop", "open"], setting: "level" },
  answers: "opening",
  seenBy: ["one", "ends"],
  suggestedBy: null,
  words(value) {
    if (value === "between") return "between open and shut";
    if (value === "on") return "open, position not reported";
    if (typeof value !== "number") return value === "stop" ? "stopped" : value;
    if (value === 0) return "shut";
    return value === 100 ? "open" : `${value} % open`;
  },
};
