/** Profiles that every installation has: the usual kinds of firmware, by what they speak. A team adds its own as data. */
import type { Profile } from "./model.ts";

const OURS = {
  do: "{site}/{device}/{channel}/do",
  ask: "{site}/{device}/{channel}/ask",
  done: "{site}/{device}/{channel}/done",
  is: "{site}/{device}/{channel}/is",
  here: "{site}/{device}/here",
} as const;

const SET_AND_STATE = {
  do: "{site}/{device}/{channel}/set",
  done: null,
  is: "{site}/{device}/{channel}/state",
  here: "{site}/{device}/online",
} as const;

const ONE_TOPIC = {
  do: "{site}/{device}/in",
  done: null,
  is: "{site}/{device}/out",
  here: "{site}/{device}/online",
} as const;
const ONLINE = { up: "online", down: "offline" } as const;

export const shippedProfiles: readonly Profile[] = [
  {
    slug: "new-device",
    name: "New device: JSON with ids, answers and reports",
    codec: "json",
    topics: OURS,
    delivery: {},
  },
  {
    slug: "new-timing-device",
    name: "New device that times itself: for motors and hold-to-run",
    codec: "json",
    topics: OURS,
    delivery: { timesItself: true, powerUp: "safe" },
  },
  {
    slug: "behind-translator",
    name: "Behind a translator: HTTP, typed lines, mailbox or radio",
    codec: "json",
    // What is behind it is asked by the translator, in its own time.
    topics: { ...OURS, ask: null },
    // A translator tells what became of each command, also that nothing did: it waits for the device by itself.
    delivery: { ackWithinMs: 12_000, attempts: 2, settleMs: 15_000, timesItself: true, knowsRepeats: true },
  },
  {
    slug: "bare-words",
    name: "Bare words on and off, answers ok or no on one topic",
    codec: "word",
    topics: { ...OURS, ask: null, done: "{site}/{device}/done" },
    delivery: {},
  },
  {
    slug: "capital-words",
    name: "ON and OFF, reports its state",
    codec: { form: "text", words: { on: "ON", off: "OFF" }, here: ONLINE },
    topics: SET_AND_STATE,
    delivery: { reports: "onChange" },
  },
  {
    slug: "one-and-zero",
    name: "1 and 0, reports its state",
    codec: { form: "text", words: { on: 1, off: 0 }, here: ONLINE },
    topics: SET_AND_STATE,
    delivery: { reports: "onChange" },
  },
  {
    slug: "level-255",
    name: "Levels from 0 to 255, reports its state",
    codec: { form: "text", range: [0, 255], here: ONLINE },
    topics: SET_AND_STATE,
    delivery: { reports: "onChange", settleMs: 5_000 },
  },
  {
    slug: "travelling-blind",
    name: "Blind or valve: open, close, stop and 0 to 100, reports its position",
    codec: { form: "text", words: { stop: "stop" }, here: ONLINE },
    topics: SET_AND_STATE,
    delivery: { reports: "onChange", settleMs: 60_000, tolerance: 2 },
  },
  {
    slug: "colour-light",
    name: "Colour as red,green,blue, reports its state",
    codec: { form: "text", do: "{red},{green},{blue}", colours: "parts", here: ONLINE },
    topics: SET_AND_STATE,
    delivery: { reports: "onChange" },
  },
  {
    slug: "numbered-outputs",
    name: "Numbered outputs on one topic: 3=1 in, 3=1 out",
    codec: { form: "text", do: "{index}={value}", is: "{index}={value}", words: { on: 1, off: 0 }, here: ONLINE },
    topics: ONE_TOPIC,
    delivery: { reports: "onChange" },
  },
  {
    slug: "json-outputs",
    name: "JSON of its own on one topic: output and state",
    codec: {
      form: "fields",
      do: { output: "{index}", state: "{value}" },
      words: { on: true, off: false },
      is: { value: "/state", index: "/output", by: "/source", causes: { hand: ["button", "switch"], boot: ["start"] } },
      here: ONLINE,
    },
    topics: ONE_TOPIC,
    delivery: { reports: "onChange" },
  },
  {
    slug: "single-characters",
    name: "One character a command, no answers",
    codec: { form: "text", words: { on: "1", off: "0" } },
    topics: { do: "{site}/{device}/{channel}", done: null, is: null, here: null },
    delivery: { targetStage: "published", attempts: 1 },
  },
  {
    slug: "relay-frame",
    name: "Four-byte frames A0, number, state, sum; answers with the same",
    codec: { form: "bytes", do: "A0 {index} {value} {sum}" },
    topics: { ...ONE_TOPIC, here: null },
    delivery: { reports: "always" },
  },
  {
    slug: "readings",
    name: "Inputs and readings: one number or word to a topic",
    codec: { form: "text", words: { on: 1, off: 0 }, here: ONLINE },
    topics: { do: null, done: null, is: "{site}/{device}/{channel}", here: "{site}/{device}/online" },
    delivery: {},
  },
];
