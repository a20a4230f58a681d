/**
 * From the bare states of an input to what a person did with it: it was made or let go, pressed once, twice, or long. Pure; the time comes in
 * as an argument.
 *
 * - A contact bounces: the first edge counts at once, and those within `debounceMs` of it are looked at together when that is over.
 * - Without a route for a double or a long press, a press counts as soon as the contact is made: nobody waits for nothing.
 * - With one for long presses, a press counts when the contact is let go, and is long as soon as it is held for `longMs`.
 * - With one for double presses, a press counts `doubleMs` after it, if no second one came.
 */

export const INPUT_EVENTS = ["on", "off", "once", "twice", "long"] as const;

/** What an input told: it became on or off, or was pressed. */
export type InputEvent = (typeof INPUT_EVENTS)[number];
export type InputLevel = "on" | "off";

/** How presses of an input are told apart, ms. */
export interface PressTimes {
  readonly debounceMs: number;
  /** The second press of a double one begins within this of the end of the first. */
  readonly doubleMs: number;
  readonly longMs: number;
  /** Whether the input tells when it is let go; otherwise each report of on is a press. */
  readonly releases: boolean;
}

export const PRESS_TIMES: PressTimes = { debounceMs: 50, doubleMs: 400, longMs: 800, releases: true };

export interface PressState {
  /** As it counts; null: nothing is known of it. */
  readonly level: InputLevel | null;
  /** As it was told last, maybe within a bounce. */
  readonly told: InputLevel | null;
  /** Edges before this moment are bounces; ms. */
  readonly quietUntil: number;
  /** Since when it is held, where that may become a long press. */
  readonly heldSince: number | null;
  /** The end of a short press that may be the first of two. */
  readonly firstAt: number | null;
}

export const UNPRESSED: PressState = {
  level: null,
  told: null,
  quietUntil: Number.NEGATIVE_INFINITY,
  heldSince: null,
  firstAt: null,
};

export interface PressStep {
  readonly next: PressState;
  /** What some route waits for, in the order in which it happened. */
  readonly events: readonly InputEvent[];
  /** When `pressTime` should be asked again, ms; null: not before the next report. */
  readonly wakeAt: number | null;
}

export interface PressInput {
  readonly times: PressTimes;
  /** The events that routes wait for. */
  readonly wanted: ReadonlySet<InputEvent>;
}

/**
 * The input told its state.
 *
 * @param before what it was known to be until now; counts where this is the first report of it
 * @example pressReport(UNPRESSED, "on", "off", 0, { times: PRESS_TIMES, wanted: new Set(["once"]) }).events // → ["once"]
 */
export function pressReport(
  state: PressState,
  level: InputLevel,
  before: InputLevel | null,
  now: number,
  input: PressInput,
): PressStep {
  const { times } = input;
  const told: InputEvent[] = [];
  const since = timePassed(state.level === null ? { ...state, level: before, told: before } : state, now, input, told);
  // Whoever tells only presses tells each of them with the same word.
  const isEdge = times.releases ? level !== since.level && since.level !== null : level === "on";
  const known: PressState = { ...since, told: level, level: since.level ?? level };
  if (!isEdge || now < since.quietUntil) return stepOf(known, told, input);
  return stepOf(edge(known, level, now, input, told), told, input);
}

/** Time has passed without a report. */
export function pressTime(state: PressState, now: number, input: PressInput): PressStep {
  const told: InputEvent[] = [];
  return stepOf(timePassed(state, now, input, told), told, input);
}

/** What it is counts from now on; what was under way is no press: nobody saw how it went on. */
export function pressUnseen(level: InputLevel | null): PressState {
  return { ...UNPRESSED, level, told: level };
}

function timePassed(state: PressState, now: number, input: PressInput, told: InputEvent[]): PressState {
  const { times } = input;
  let next = state;
  // The end of a bounce: what it came to rest at counts.
  if (times.releases && next.level !== next.told && next.told !== null && next.level !== null && now >= next.quietUntil)
    next = edge(next, next.told, next.quietUntil, input, told);
  if (next.heldSince !== null && now >= next.heldSince + times.longMs) {
    tell("long", input, told);
    next = { ...next, heldSince: null };
  }
  if (next.firstAt !== null && now > next.firstAt + times.doubleMs) {
    tell("once", input, told);
    next = { ...next, firstAt: null };
  }
  return next;
}

function edge(state: PressState, level: InputLevel, at: number, input: PressInput, told: InputEvent[]): PressState {
  const next: PressState = { ...state, level, quietUntil: at + input.times.debounceMs };
  tell(level, input, told);
  return level === "on" ? made(next, at, input, told) : letGo(next, at, input, told);
}

function made(state: PressState, at: number, input: PressInput, told: InputEvent[]): PressState {
  const { wanted, times } = input;
  if (state.firstAt !== null) {
    tell("twice", input, told);
    return { ...state, firstAt: null };
  }
  if (wanted.has("long") && times.releases) return { ...state, heldSince: at };
  return pressed(state, at, input, told);
}

function letGo(state: PressState, at: number, input: PressInput, told: InputEvent[]): PressState {
  return state.heldSince === null ? state : pressed({ ...state, heldSince: null }, at, input, told);
}

/** A short press has happened; where two mean something, it may be the first. */
function pressed(state: PressState, at: number, input: PressInput, told: InputEvent[]): PressState {
  if (input.wanted.has("twice")) return { ...state, firstAt: at };
  tell("once", input, told);
  return state;
}

function tell(event: InputEvent, { wanted }: PressInput, told: InputEvent[]): void {
  if (wanted.has(event)) told.push(event);
}

function stepOf(next: PressState, events: readonly InputEvent[], { times }: PressInput): PressStep {
  const bounces = times.releases && next.level !== next.told && next.level !== null;
  const wakes = [
    ...(bounces ? [next.quietUntil] : []),
    ...(next.heldSince === null ? [] : [next.heldSince + times.longMs]),
    // Just past it: a second press at the very end still counts.
    ...(next.firstAt === null ? [] : [next.firstAt + times.doubleMs + 1]),
  ];
  return { next, events, wakeAt: wakes.length === 0 ? null : Math.min(...wakes) };
}
