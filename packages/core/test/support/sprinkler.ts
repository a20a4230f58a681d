/** A kind of channel that the product does not have, to see what follows from its one file. */
import { readFileSync } from "node:fs";
import type { ChannelKind } from "../../src/index.ts";

/** A garden valve with three settings. */
export const sprinkler: ChannelKind = {
  name: "sprinkler",
  about: "a garden valve that waters a little or a lot",
  actions: {
    water: { asks: "to", to: 100 },
    drizzle: { asks: "to", to: 20 },
    off: { asks: "to", to: 0 },
    level: { asks: "level" },
  },
  range: { least: 0, most: 100, unit: "%" },
  full: 100,
  rest: 0,
  repeatable: true,
  restorable: false,
  input: false,
  nouns: [["sprinkler", "sprinklers"]],
  verbs: { water: "water", drizzle: "drizzle", sprinkle: "drizzle" },
  trials: [{ action: "drizzle" }, { action: "off" }],
  blinks: false,
  control: { keys: ["off", "drizzle", "water"], setting: "level" },
  answers: "switched",
  seenBy: [],
  suggestedBy: null,
  words: (value) => (value === 0 ? "dry" : `watering at ${String(value)} %`),
};

/** The same as a file of `core/src/channel`. */
export const SPRINKLER_SOURCE = readFileSync(new URL(import.meta.url), "utf8")
  .replace(/^[\s\S]*?(?=\/\*\* A garden)/, 'import type { ChannelKind } from "./kind.ts";\n')
  .replace(/\n\/\*\* The same as[\s\S]*/, "");
