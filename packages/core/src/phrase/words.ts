/** The words of the grammar. One that is not here, and is no name, is unknown: then nothing is done at all. */
import { askedNumber } from "../ask/limits.ts";
import { channelKinds } from "../channel/index.ts";
import type { ChannelKind } from "../channel/kind.ts";

/** What is wanted, before the kind of the channel says which action that is. */
export type Verb = string;

/** Verbs that many kinds share, and those of each kind. */
export const verbs: ReadonlyMap<string, Verb> = new Map<string, Verb>(
  Object.entries({
    ...ownVerbs(Object.values<ChannelKind>(channelKinds)),
    on: "on",
    start: "on",
    enable: "on",
    off: "off",
    out: "off",
    disable: "off",
    open: "open",
    raise: "up",
    up: "up",
    close: "close",
    shut: "close",
    lower: "down",
    down: "down",
    stop: "stop",
    halt: "stop",
    toggle: "toggle",
    flip: "toggle",
    read: "read",
    recall: "recall",
    activate: "recall",
    before: "back",
    back: "back",
    undo: "back",
    closed: "close",
    opened: "open",
    pressed: "pressed",
    level: "level",
  }),
);

/** How far, beside a verb or alone: "half open", "full". */
export const extents: ReadonlyMap<string, Extent> = new Map<string, Extent>([
  ["full", "full"],
  ["fully", "full"],
  ["maximum", "full"],
  ["half", "half"],
]);
export type Extent = "full" | "half";

function ownVerbs(kinds: readonly ChannelKind[]): Record<string, Verb> {
  return Object.assign({}, ...kinds.map(({ verbs: own }) => own));
}

/** Words that carry no wish of their own. */
export const fillers: ReadonlySet<string> = new Set(
  (
    "please pls plz thanks thank you could can would will kindly hey hi hello ok okay the a an my our your this that these those to at with by of " +
    "in on i we id want need like lets let us me for now just turn switch put set make get give have change bring move go going run running be it them " +
    "also too again colour color brightness percent level as was were is are its there so still currently scene group " +
    "light-level dear quickly immediately !"
  ).split(" "),
);

/** Stand for nothing only together: "right now", "good evening". By itself each may be part of what is meant. */
export const fillerPairs: ReadonlySet<string> = new Set(
  ["now", "away"]
    .map((word) => `right ${word}`)
    .concat(["morning", "afternoon", "evening", "day"].map((word) => `good ${word}`)),
);

/** Mean one of several that the sender does not name: only a question may have them. */
export const indefinites: ReadonlySet<string> = new Set(["any", "some", "anything"]);

/** What somebody may have meant by words that are not in the grammar. */
export const meantBy: ReadonlyMap<string, readonly string[]> = new Map(
  Object.entries({
    ein: ["on"],
    aus: ["off"],
    auf: ["open"],
    zu: ["close"],
    allume: ["on"],
    encendido: ["on"],
    apagado: ["off"],
    press: ["pulse"],
  }),
);

export const greetings: ReadonlySet<string> = new Set(
  "hi hello hey morning afternoon evening good day there".split(" "),
);
export const helpWords: ReadonlySet<string> = new Set(["help", "?", "commands", "menu"]);

/** Between asks. */
export const splitters: ReadonlySet<string> = new Set([",", ";", ".", ":", "and", "then", "&", "+", "plus"]);

/** Whoever says this does not want what follows; nothing is done then, for nobody knows how far it reaches. */
export const negations: ReadonlySet<string> = new Set(
  "dont not never no cannot cant wont shouldnt doesnt isnt arent without".split(" "),
);

/** It depends on something: that is for those who ask, not for a bridge. */
export const conditions: ReadonlySet<string> = new Set(
  "if unless when whenever until till after tomorrow tonight later every".split(" "),
);

export const exceptions: ReadonlySet<string> = new Set(["except", "excepting", "but"]);
export const everything: ReadonlySet<string> = new Set(["everything", "all", "everywhere"]);
export const pronouns: ReadonlySet<string> = new Set(["it", "them", "that", "those", "these"]);

/** Kinds of channels that share a noun, and whether it means one of them or many. */
interface KindWord {
  readonly kinds: readonly string[];
  readonly many: boolean;
}

/** Kinds of channels by their own nouns. @example kindWords.get("lights") // → { kinds: ["light", "dimmer", …], many: true } */
export const kindWords: ReadonlyMap<string, KindWord> = nounsOf(Object.values<ChannelKind>(channelKinds));

function nounsOf(kinds: readonly ChannelKind[]): Map<string, KindWord> {
  const words = new Map<string, KindWord>();
  const add = (word: string, many: boolean, name: string) =>
    words.set(word, { kinds: [...(words.get(word)?.kinds ?? []), name], many });
  for (const { name, nouns } of kinds)
    for (const [one, many] of nouns) {
      add(one, false, name);
      add(many, true, name);
    }
  return words;
}

/** ms */
export const timeUnits: ReadonlyMap<string, number> = new Map(
  Object.entries({
    s: 1_000,
    sec: 1_000,
    secs: 1_000,
    second: 1_000,
    seconds: 1_000,
    m: 60_000,
    min: 60_000,
    mins: 60_000,
    minute: 60_000,
    minutes: 60_000,
    h: 3_600_000,
    hr: 3_600_000,
    hour: 3_600_000,
    hours: 3_600_000,
  }),
);

const ONES =
  "zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen seventeen eighteen nineteen";
const TENS = "twenty thirty forty fifty sixty seventy eighty ninety";

const numberWords: ReadonlyMap<string, number> = new Map([
  ...ONES.split(" ").map((word, value) => [word, value] as const),
  ...TENS.split(" ").map((word, place) => [word, (place + 2) * 10] as const),
  ["hundred", 100] as const,
]);

/** @example numberOf("fifty") // → 50 */
export function numberOf(word: string): number | null {
  return askedNumber(word) ?? numberWords.get(word) ?? null;
}

/** What may be asked what is: "which lights are on?" */
export const questionWords: ReadonlySet<string> = new Set(
  "is are was what which who status state how does did".split(" "),
);
