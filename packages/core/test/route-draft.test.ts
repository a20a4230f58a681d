/** A route that is made from an arrival catches that arrival, whatever is chosen of its parts. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  type Arrival,
  arrivalParts,
  buildRouter,
  draftHoles,
  firstChoices,
  mapped,
  mappingFrom,
  matchRoute,
  NO_ARRIVAL,
  type PartChoice,
  type RouteDraft,
  routeFrom,
  withChoice,
} from "../src/index.ts";

const DRAFT: RouteDraft = {
  name: "",
  choices: [],
  target: "wren/porch",
  action: "on",
  value: "",
  examples: [],
  onlySender: "",
  reply: "",
};

const level = fc.stringMatching(/^[a-z0-9 _-]{1,8}$/);
const scalar = fc.oneof(fc.stringMatching(/^[a-zA-Z0-9 ]{1,8}$/), fc.integer(), fc.boolean());
const document = fc.dictionary(
  fc.stringMatching(/^[a-z/~]{1,6}$/),
  fc.oneof(scalar, fc.dictionary(fc.stringMatching(/^[a-z]{1,4}$/), scalar, { minKeys: 1, maxKeys: 3 })),
  { minKeys: 1, maxKeys: 5 },
);
const arrivals: fc.Arbitrary<Arrival> = fc
  .oneof(
    fc.record({
      topic: fc.array(level, { minLength: 1, maxLength: 5 }).map((levels) => levels.join("/")),
      text: level,
    }),
    fc.record({ fields: document }),
    fc.record({ text: fc.stringMatching(/^[a-z]{1,6}( [a-z0-9]{1,6}){0,4}$/) }),
    fc.record({ text: fc.stringMatching(/^[a-z]{1,6}$/), fields: document }),
    fc.record({ digits: fc.stringMatching(/^[0-9*#]{1,6}$/) }),
  )
  .map((arrival) => ({ ...NO_ARRIVAL, ...arrival }));
const choice = fc.oneof<fc.Arbitrary<PartChoice>[]>(
  fc.constant({ as: "literal" }),
  fc.constant({ as: "ignored" }),
  fc.stringMatching(/^[a-z]{1,6}$/).map((name) => ({ as: "hole", name })),
);

it("a route made from an arrival catches it, and its holes have what stood there", () => {
  fc.assert(
    fc.property(arrivals, fc.array(choice, { minLength: 20, maxLength: 20 }), (arrival, any) => {
      const parts = arrivalParts(arrival);
      const choices = parts.map((_, at) => any[at % any.length] as PartChoice);
      for (const chosen of [choices, firstChoices(parts)]) {
        const route = routeFrom({ ...DRAFT, choices: chosen }, parts);
        const matched = matchRoute(buildRouter([route]), arrival, () => true);
        expect(matched?.place).toBe(1);
        const holes = draftHoles(parts, chosen, {});
        // Words and digits are caught whole.
        if ("topic" in route.when || "fields" in route.when) expect(matched?.holes).toEqual(holes);
      }
    }),
  );
});

describe("a route made from an arrival", () => {
  const topic = { ...NO_ARRIVAL, topic: "buttons/finch/2", text: "press" };

  it("of a topic has holes where it was told, and maps what the payload says", () => {
    const parts = arrivalParts(topic);
    const choices: PartChoice[] = [{ as: "literal" }, { as: "hole", name: "room" }, { as: "ignored" }];
    const draft = { ...DRAFT, choices, name: "button", target: "{room}/porch", action: "{payload}" };
    const examples = [
      { said: "press", means: "toggle" },
      { said: "hold", means: "off" },
    ];
    expect(routeFrom({ ...draft, examples }, parts)).toEqual({
      name: "button",
      when: { topic: "buttons/{room}/+" },
      do: {
        target: "{room}/porch",
        action: "{payload}",
        map: { payload: { table: { press: "toggle", hold: "off" } } },
      },
    });
    expect(draftHoles(parts, choices, topic)).toEqual({ payload: "press", room: "finch" });
  });

  it("of a document looks at the places that were told, by their pointers", () => {
    const parts = arrivalParts({ fields: { "a/b": { "c~d": "x" }, list: ["y"], nothing: null } });
    expect(parts.map(({ place, text }) => [place, text])).toEqual([
      ["/a~1b/c~0d", "x"],
      ["/list/0", "y"],
    ]);
    expect(routeFrom({ ...DRAFT, choices: firstChoices(parts) }, parts).when).toEqual({
      fields: { "/a~1b/c~0d": "x" },
    });
  });

  it("looks at the words, or at fields of the message, never at both", () => {
    const parts = arrivalParts({ text: "movie night", fields: { room: "porch", text: "movie night" } });
    const first = firstChoices(parts);
    expect(routeFrom({ ...DRAFT, choices: first }, parts).when).toEqual({ words: "movie night" });
    const field = withChoice(parts, first, 1, { as: "hole", name: "room" });
    expect(routeFrom({ ...DRAFT, choices: field }, parts).when).toEqual({ fields: { "/room": "{room}" } });
    const words = withChoice(parts, field, 0, { as: "literal" });
    expect(routeFrom({ ...DRAFT, choices: words }, parts).when).toEqual({ words: "movie night" });
  });

  it("has condition, value and reply only where they are told", () => {
    const parts = arrivalParts({ text: "lights up" });
    expect(routeFrom({ ...DRAFT, choices: firstChoices(parts) }, parts)).toEqual({
      when: { words: "lights up" },
      do: { target: "wren/porch", action: "on" },
    });
    const more = {
      ...DRAFT,
      choices: firstChoices(parts),
      action: "level",
      value: "40",
      onlySender: "ana",
      reply: "Done.",
    };
    expect(routeFrom(more, parts)).toEqual({
      when: { words: "lights up" },
      only: { senders: ["ana"] },
      do: { target: "wren/porch", action: "level", value: 40 },
      reply: "Done.",
    });
  });
});

describe("examples of values", () => {
  it("map at least what they say", () => {
    const said = fc.oneof(fc.integer({ min: -2000, max: 2000 }).map(String), fc.stringMatching(/^[a-z]{1,5}$/));
    const example = fc.record({
      said,
      means: fc.oneof(fc.integer({ min: 0, max: 100 }).map(String), fc.constant("off")),
    });
    const distinct = fc.uniqueArray(example, { selector: (one) => one.said, minLength: 1, maxLength: 5 });
    fc.assert(
      fc.property(distinct, (examples) => {
        const mapping = mappingFrom(examples);
        for (const one of examples) expect(String(mapped(one.said, mapping))).toBe(one.means);
      }),
    );
  });

  it("of two numbers are both ends of a scale", () => {
    const mapping = mappingFrom([
      { said: "1023", means: "100" },
      { said: "0", means: "0" },
    ]);
    expect(mapped("512", mapping)).toBe(50);
  });
});
