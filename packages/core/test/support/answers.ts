/**
 * What is answered to "is it on / off / open / shut?" and "what is it?", for every kind in every state. `y` yes, `n` no, `-` it cannot
 * be said: in the order on, off, open, shut. A state that a kind cannot have is left out.
 */
import type { KindName, Made, StaleWhy, Value } from "../../src/index.ts";

export interface AnswerRow {
  readonly kind: KindName;
  readonly made?: Made;
  readonly state: string;
  readonly value: Value | null;
  /** The last level it took before it was stopped. */
  readonly lastTaken?: number;
  readonly stale?: StaleWhy;
  readonly answers: string;
  /** What is it? */
  readonly text: string;
}

const LAST = "reported 5 min ago";
const MIN_AGO = { offline: "(offline, last seen so 5 min ago)", silent: "(no report since 5 min ago)" } as const;

/** The same for every kind: nothing is known, or what is known is old. */
function unsure(kind: KindName, value: Value, words: string, made?: Made): AnswerRow[] {
  const row = { kind, ...(made ? { made } : {}), answers: "----" };
  return [
    { ...row, state: "unknown", value: null, text: "unknown" },
    { ...row, state: "offline", value, stale: "offline", text: `${words} ${MIN_AGO.offline}` },
    { ...row, state: "stale: silent", value, stale: "silent", text: `${words} ${MIN_AGO.silent}` },
    { ...row, state: "stale: retained", value, stale: "retained", text: `${words} (retained, age unknown)` },
    {
      ...row,
      state: "a command since ended without proof",
      value,
      stale: "unproven",
      text: `${words} (not known now, last command unproven, ${LAST})`,
    },
    {
      ...row,
      state: "reported since in a form that cannot be read",
      value,
      stale: "unreadable",
      text: `${words} (not known now, last report unreadable, ${LAST})`,
    },
    { ...row, state: "stale: unheard", value, stale: "unheard", text: `${words} (not heard again since 5 min ago)` },
  ];
}

const switched = (kind: "relay" | "light"): AnswerRow[] => [
  { kind, state: "on", value: "on", answers: "yn--", text: "on" },
  { kind, state: "off", value: "off", answers: "ny--", text: "off" },
  ...unsure(kind, "on", "on"),
];

const coloured = (kind: "colour" | "lamps"): AnswerRow[] => [
  { kind, state: "on", value: "#ff8800", answers: "yn--", text: "#ff8800" },
  { kind, state: "off", value: "#000000", answers: "ny--", text: "unlit" },
  ...unsure(kind, "#ff8800", "#ff8800"),
];

export const ANSWERS: readonly AnswerRow[] = [
  ...switched("relay"),
  ...switched("light"),
  ...coloured("colour"),
  ...coloured("lamps"),

  { kind: "dimmer", state: "on", value: 35, answers: "yn--", text: "35 %" },
  { kind: "dimmer", state: "off", value: 0, answers: "ny--", text: "0 %" },
  { kind: "dimmer", state: "on, without a level", value: "on", answers: "yn--", text: "on, level not reported" },
  ...unsure("dimmer", 35, "35 %"),

  { kind: "motor", state: "standing", value: 0, answers: "ny--", text: "standing" },
  { kind: "motor", state: "running", value: 100, answers: "yn--", text: "opening at 100 %" },
  { kind: "motor", state: "running back", value: -40, answers: "yn--", text: "closing at 40 %" },
  { kind: "motor", state: "on, without a speed", value: "on", answers: "yn--", text: "running, speed not reported" },
  ...unsure("motor", 0, "standing"),

  { kind: "position", state: "open", value: 100, answers: "--yn", text: "open" },
  { kind: "position", state: "shut", value: 0, answers: "--ny", text: "shut" },
  { kind: "position", state: "between", value: 40, answers: "---n", text: "40 % open" },
  {
    kind: "position",
    state: "between, by its end contacts",
    value: "between",
    answers: "---n",
    text: "between open and shut",
  },
  {
    kind: "position",
    state: "stopped",
    value: "stop",
    lastTaken: 40,
    answers: "----",
    text: "stopped in between, last commanded 40 % open",
  },
  { kind: "position", state: "moving", value: "moving", answers: "----", text: "moving" },
  {
    kind: "position",
    state: "open, nobody knows how far",
    value: "on",
    answers: "---n",
    text: "open, position not reported",
  },
  {
    kind: "position",
    state: "both end contacts made",
    value: 0,
    stale: "contradicted",
    answers: "----",
    text: `shut (not known now, both end contacts made, ${LAST})`,
  },
  { kind: "position", state: "stopped somewhere", value: "stop", answers: "----", text: "stopped, position unknown" },
  ...unsure("position", 0, "shut"),

  // Without a stated meaning a contact is made or not, and nobody knows what that means for a door.
  { kind: "contact", state: "on", value: "on", answers: "yn--", text: "made" },
  { kind: "contact", state: "off", value: "off", answers: "ny--", text: "not made" },
  { kind: "contact", made: "shut", state: "shut", value: "on", answers: "--ny", text: "shut" },
  { kind: "contact", made: "shut", state: "open", value: "off", answers: "--yn", text: "open" },
  { kind: "contact", made: "open", state: "open", value: "on", answers: "--yn", text: "open" },
  { kind: "contact", made: "open", state: "shut", value: "off", answers: "--ny", text: "shut" },
  { kind: "contact", made: "pressed", state: "on", value: "on", answers: "yn--", text: "pressed" },
  { kind: "contact", made: "pressed", state: "off", value: "off", answers: "ny--", text: "not pressed" },
  ...unsure("contact", "on", "made"),
  ...unsure("contact", "on", "shut", "shut"),

  { kind: "sensor", state: "a reading", value: 21.5, answers: "----", text: "21.5 °C" },
  { kind: "sensor", state: "a reading of nothing", value: 0, answers: "----", text: "0 °C" },
  ...unsure("sensor", 21.5, "21.5 °C"),

  { kind: "setpoint", state: "what it keeps to", value: 21.5, answers: "----", text: "21.5 °C" },
  { kind: "setpoint", state: "zero, which is not off", value: 0, answers: "----", text: "0 °C" },
  ...unsure("setpoint", 21.5, "21.5 °C"),

  // What a pulse opens may be anything by now.
  ...(["pulse", "off", "on", null] as const).map(
    (value): AnswerRow => ({
      kind: "pulse",
      state: String(value),
      value,
      answers: "----",
      text: "it cannot tell: a pulse contact reports no state",
    }),
  ),
];
