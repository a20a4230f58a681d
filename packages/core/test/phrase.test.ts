/** Phrases: a corpus of what people say, and what must hold of any. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  buildVocabulary,
  type ChannelId,
  chooseAmong,
  MOST_PHRASE,
  type PhraseAsk,
  type Reading,
  readPhrase,
} from "../src/index.ts";
import { corpus, phraseSnapshot } from "./support/phrases.ts";
import { spoken } from "./support/phrases-spoken.ts";

const vocabulary = buildVocabulary(phraseSnapshot, null);
const read = (phrase: string) => readPhrase(phrase, vocabulary);

const MEANS_THE_SAME = [
  ["on", "start", "enable", "recall", "full", "evening in wren"],
  ["off", "disable"],
  ["stop", "halt"],
  ["toggle", "flip"],
  ["closed", "close", "shut", "lower"],
];
const short = (address: string) => address.replace(/^[a-z-]+\/(?=[a-z]+\/)/, "");
const nameOf = (id: ChannelId) => short(phraseSnapshot.byId.get(id)?.address ?? "?");

function askInShort({ target, among, action, value, forMs }: PhraseAsk): string {
  const of = among === null ? short(target) : `[${among.map(nameOf).join(" ")}]`;
  const time = forMs === null ? "" : ` for ${forMs / 1000} s`;
  return `${action} ${of}${value === null ? "" : ` ${value}`}${time}`;
}

function inShort(reading: Reading): string {
  switch (reading.reads) {
    case "asks":
      return reading.asks.map(askInShort).join(" + ");
    case "question": {
      const { channels, which, expected } = reading.question;
      const more = which ? ` that are ${which}` : expected ? ` expected ${expected}` : "";
      return `? ${channels.map(nameOf).join(" ")}${more}`;
    }
    case "which":
      return `which ${reading.choices.map(({ address }) => short(address)).join(" ")}`;
    case "nothing":
      return `nothing ${reading.why} ${reading.words}`.trim();
    default:
      return reading.reads;
  }
}

describe("the corpus", () => {
  it.each([...corpus, ...spoken])("%s → %s", (phrase, expected) => {
    const [reading = "", offered] = expected.split(/ [~=] /);
    const found = read(phrase);
    expect(inShort(found)).toBe(reading);
    if (offered !== undefined && found.reads === "nothing") {
      const names = offered.split(" ").map((one) => {
        const channel = phraseSnapshot.byAddress.get(`alder-row/${one}`);
        return channel ? `${channel.name}, ${channel.room.name}` : one;
      });
      expect(found.nearest).toEqual(expected.includes(" = ") ? names : expect.arrayContaining(names));
    }
  });

  const verbs = ["turn on", "switch on", "please turn on", "could you switch on", "i want to turn on", "hey, put on"];
  const targets = [
    "towel rail",
    "the towel rail",
    "wren towel rail",
    "towel rail in wren",
    "towel rail, wren",
    "wren/towel",
  ];
  const ends = ["", "!", " please", ", thanks", " now", " for 5 minutes"];
  const phrases = verbs.flatMap((verb) => targets.flatMap((target) => ends.map((end) => `${verb} ${target}${end}`)));
  it.each(phrases)("%s", (phrase) => {
    expect(inShort(read(phrase))).toBe(phrase.endsWith("minutes") ? "on wren/towel for 300 s" : "on wren/towel");
  });
});

describe("a choice", () => {
  const reading = read("porch lantern on");
  const choices = reading.reads === "which" ? reading.choices : [];

  it.each([
    ["wren", "wren/porch"],
    ["the one in Finch", "finch/porch"],
    ["2", "finch/porch"],
    ["the first one", "wren/porch"],
    ["porch lantern wren", "wren/porch"],
    ["Finch please", "finch/porch"],
    ["three", null],
    ["porch", null],
    ["the other", null],
    ["", null],
  ])("“%s” chooses %s", (answer, address) => {
    expect(chooseAmong(answer, choices)).toBe(address === null ? null : `alder-row/${address}`);
  });

  it("makes the phrase whole", () => {
    if (reading.reads !== "which") throw new Error(reading.reads);
    const chosen = chooseAmong("wren", choices) ?? "";
    expect(inShort(readPhrase("porch lantern on", vocabulary, new Map([[reading.at, chosen]])))).toBe("on wren/porch");
  });
});

describe("a sender's own words", () => {
  const own = buildVocabulary(phraseSnapshot, ["alder-row"], {
    "fairy lights": "path lights",
    lit: "on",
    gloom: "all porches off",
  });

  it.each([
    ["fairy lights lit", "on wren/path"],
    ["turn off the Fairy Lights please", "off wren/path"],
    ["gloom", "off alder-row/porches"],
    ["stage lights on", "nothing unknown-words stage"],
    ["stage light left red", "nothing unknown-words stage"],
  ])("%s → %s", (phrase, expected) => {
    expect(inShort(readPhrase(phrase, own))).toBe(expected);
  });

  it("learn no names of sites that are not theirs", () => {
    const found = readPhrase("stage light lef red", own);
    expect(JSON.stringify(found)).not.toMatch(/fennel/);
  });
});

describe("any phrase at all", () => {
  const words =
    "turn on off the wren porch lantern everything except and , 50 % for minutes red ? not all lights".split(" ");
  const soup = fc.array(fc.constantFrom(...words), { maxLength: 40 }).map((all) => all.join(" "));

  it("is read without an error, and what it asks exists", () => {
    fc.assert(
      fc.property(fc.oneof(soup, fc.string({ unit: "grapheme", maxLength: 200 })), (phrase) => {
        const found = read(phrase);
        if (found.reads !== "asks") return;
        expect(found.asks.length).toBeGreaterThan(0);
        for (const { target, among } of found.asks) {
          if (among === null) expect(phraseSnapshot.byName.has(target)).toBe(true);
          else expect(among.length).toBeGreaterThan(1);
        }
      }),
    );
  });

  it("does nothing when a word in it is not known, wherever that stands", () => {
    fc.assert(
      fc.property(fc.constantFrom(...corpus.map(([phrase]) => phrase)), fc.nat(20), (phrase, place) => {
        const parts = phrase.split(" ");
        parts.splice(Math.min(place, parts.length), 0, "xyzzy");
        expect(read(parts.join(" ")).reads).not.toBe("asks");
      }),
    );
  });

  const names = [
    "porch lantern wren",
    "porch lantern finch",
    "hall light",
    "towel rail",
    "all porches",
    "path lights",
    "landing light",
  ];
  const exceptSoup = fc
    .array(
      fc.constantFrom(
        ...names,
        "everything",
        "all lights",
        "except",
        "but not",
        "and",
        ",",
        "on",
        "off",
        "in wren",
        "in finch",
        "at alder row",
      ),
      { minLength: 3, maxLength: 14 },
    )
    .map((all) => all.join(" "));

  it("reaches no channel of which the reading says that it is left out", () => {
    let excluded = 0;
    fc.assert(
      fc.property(exceptSoup, (phrase) => {
        const found = read(phrase);
        if (found.reads !== "asks") return;
        const left = found.used.flatMap(({ gave }) =>
          gave.startsWith("not ")
            ? gave
                .slice(4)
                .replace(/: asked by.*/, "")
                .split("; ")
            : [],
        );
        const one = [...phraseSnapshot.byId.values()].filter(({ name, room }) =>
          left.includes(`${name}, ${room.name}`),
        );
        const bundle = phraseSnapshot.bundles.filter(({ name }) => left.includes(name));
        const out = [
          ...one.map(({ id }) => id),
          ...bundle.flatMap(({ members }) => members.map(({ channel }) => channel)),
        ];
        const reached = found.asks.flatMap(({ target, among }): readonly number[] => {
          if (among !== null) return among;
          const group = phraseSnapshot.bundles.find(({ address }) => address === target);
          return group ? group.members.map(({ channel }) => channel) : [phraseSnapshot.byAddress.get(target)?.id ?? 0];
        });
        excluded += out.length;
        // Said apart it is another wish: "everything off except the porch, porch on".
        if (found.asks.some(({ action }) => action !== found.asks[0]?.action)) return;
        expect([phrase, out.filter((id) => reached.includes(id as number)).map(nameOf)]).toEqual([phrase, []]);
      }),
      { numRuns: 20_000 },
    );
    expect(excluded).toBeGreaterThan(1_000);
  });

  it("drops no word that wishes something: with one more it asks something else, or nothing", () => {
    const more = ["off", "half", "red", "50 %", "for 7 minutes", "stop", "toggle", "by 20", "closed"];
    for (const [phrase] of corpus) {
      const before = read(phrase);
      if (before.reads !== "asks") continue;
      for (const word of more) {
        for (const joint of [" ", " and "]) {
          const after = read(`${phrase}${joint}${word}`);
          const isSame = after.reads === "asks" && inShort(after) === inShort(before);
          // The same word again, or one that means the same, adds nothing.
          const isAgain =
            phrase.toLowerCase().split(/\W+/).includes(word) ||
            MEANS_THE_SAME.some((all) => all.includes(word) && all.some((one) => phrase.toLowerCase().includes(one)));
          expect([`${phrase}${joint}${word}`, isSame && !isAgain]).toEqual([`${phrase}${joint}${word}`, false]);
        }
      }
    }
  });

  it("costs no more than it is long", () => {
    const steps = (phrase: string) => {
      let lookups = 0;
      const counting = new Proxy(vocabulary, {
        get(target, key) {
          if (key === "root") lookups += 1;
          return Reflect.get(target, key);
        },
      });
      readPhrase(phrase, counting);
      return lookups;
    };
    const long = (times: number) => "porch lantern in the ".repeat(times).slice(0, MOST_PHRASE);
    expect(steps(long(20))).toBeLessThanOrEqual(2 * steps(long(10)) + 4);
    expect(inShort(read("on ".repeat(200)))).toMatch(/^nothing too-long/);
  });
});
