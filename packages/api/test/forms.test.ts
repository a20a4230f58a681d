/** Hostile and careless files: profiles and sites with every kind of mistake, each named, none taken. */
import { shippedProfiles } from "@bold-relay/core";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { profileSchema, publishSchema, siteSchema, wireQuerySchema } from "../src/schema/index.ts";

const mistakes = (
  schema: { validate(input: unknown, options?: object): { error?: { message: string } | undefined } },
  input: unknown,
) => schema.validate(input, { abortEarly: false }).error?.message ?? "none";

const topics = { do: "{device}/{channel}/set", done: null, is: "{device}/{channel}/state", here: null };
const profile = (codec: unknown, more: object = {}) => ({ slug: "p", name: "P", codec, topics, delivery: {}, ...more });

describe("a form of payload", () => {
  it("every profile that ships is one that could be loaded", () => {
    for (const shipped of shippedProfiles)
      expect([shipped.slug, mistakes(profileSchema, shipped)]).toEqual([shipped.slug, "none"]);
  });

  it.each([
    ["an unknown form", { form: "xml" }, "an object with “form”: text, fields, bytes"],
    ["a form by name that needs settings", "text", "an object with “form”"],
    ["a hole that is none", { form: "text", do: "{values}" }, "has a hole values"],
    ["a hole where it has no meaning", { form: "text", is: "{for}" }, "has a hole for"],
    ["two holes that touch", { form: "text", do: "{index}{value}" }, "two holes with nothing between them"],
    ["a range of nothing", { form: "text", range: [5, 5] }, "the same number twice"],
    ["a range of three", { form: "text", range: [0, 1, 2] }, "range"],
    ["a range in words", { form: "text", range: ["0", "255"] }, "must be a number"],
    ["a setting of another form", { form: "text", pointer: "/a" }, "is not allowed"],
    ["a pointer that is none", { form: "fields", do: {}, is: { value: "a/b" } }, "is no JSON Pointer"],
    ["a pointer with a stray tilde", { form: "fields", do: {}, is: { value: "/a~2" } }, "is no JSON Pointer"],
    ["one part of a colour alone", { form: "fields", do: {}, is: { red: "/r" } }, "red"],
    ["a template without end", { form: "fields", do: { a: "x".repeat(3_000) } }, "longer than 2000"],
    ["half a byte", { form: "bytes", do: "A0 1" }, "holds bytes like A0"],
    ["words among bytes", { form: "bytes", do: "A0 on" }, "holds bytes like A0"],
    ["a byte beyond 255", { form: "bytes", do: "A0 {value}", words: { on: 256 } }, "less than or equal to 255"],
  ])("%s", (_about, codec, text) => {
    expect(mistakes(profileSchema, profile(codec))).toContain(text);
  });

  it.each([
    ["neither commands nor reports", { topics: { ...topics, do: null, is: null } }, "has neither"],
    [
      "one topic both ways, and proof wanted",
      { topics: { ...topics, is: topics.do } },
      "cannot be told from a command",
    ],
    ["a wildcard", { topics: { ...topics, do: "{device}/+/set" } }, "may hold any character of a topic but"],
    ["a stop where it reports itself", { topics: { ...topics, stop: topics.is } }, "would not read there"],
    [
      "a stop of what takes no commands",
      { topics: { ...topics, do: null, stop: "{device}/stop" } },
      "has nothing to stop",
    ],
    ["a first number of two", { indexFrom: 2 }, "indexFrom"],
  ])("with %s is refused", (_about, more, text) => {
    expect(mistakes(profileSchema, profile("word", more))).toContain(text);
  });

  it("takes one topic both ways where less is claimed, and a shared one where payloads name the channel", () => {
    const oneWay = profile("word", { topics: { ...topics, is: topics.do }, delivery: { targetStage: "published" } });
    expect(mistakes(profileSchema, oneWay)).toBe("none");
    const codec = { form: "text", do: "{index}={value}", is: "{index}={value}" };
    expect(
      mistakes(profileSchema, profile(codec, { topics: { ...topics, do: "{device}/in", is: "{device}/out" } })),
    ).toBe("none");
  });
});

describe("a site", () => {
  const channels = [
    { slug: "a", name: "A", kind: "relay" },
    { slug: "b", name: "B", kind: "relay" },
  ];
  const site = (more: object) => ({
    slug: "s",
    name: "S",
    rooms: [{ slug: "r", name: "R", devices: [{ slug: "d", name: "D", profile: "p", channels }] }],
    ...more,
  });

  it.each([
    [
      "an interlock with itself",
      { interlocks: [{ name: "i", channels: ["d/a", "d/a"], meets: "refuse" }] },
      "duplicate",
    ],
    ["an interlock of one", { interlocks: [{ name: "i", channels: ["d/a"], meets: "refuse" }] }, "at least 2"],
    ["a group of a group", { groups: [{ slug: "g", name: "G", channels: ["g"] }] }, "as device/channel"],
    [
      "a group of what is not there",
      { groups: [{ slug: "g", name: "G", channels: ["d/z"] }] },
      "names d/z, which is no channel",
    ],
    ["a group named like a device", { groups: [{ slug: "d", name: "G", channels: ["d/a"] }] }, "called d like another"],
    [
      "a scene that sets a channel twice",
      {
        scenes: [
          {
            slug: "e",
            name: "E",
            sets: [
              { channel: "d/a", action: "on" },
              { channel: "d/a", action: "off" },
            ],
          },
        ],
      },
      "duplicate",
    ],
    ["rooms that are none", { rooms: "all of them" }, "must be an array"],
    ["a field that nobody knows", { colour: "red" }, "is not allowed"],
  ])("with %s is refused", (_about, more, text) => {
    expect(mistakes(siteSchema, site(more))).toContain(text);
  });

  it("that is any JSON at all is looked at without throwing", () => {
    fc.assert(
      fc.property(fc.jsonValue(), (found) => {
        expect(typeof mistakes(siteSchema, found)).toBe("string");
        expect(typeof mistakes(profileSchema, found)).toBe("string");
        expect(typeof mistakes(profileSchema, profile(found))).toBe("string");
      }),
    );
  });
});

describe("the wire", () => {
  it.each([
    ["a/#/b", "is no topic filter"],
    ["a+", "is no topic filter"],
    ["", "not allowed to be empty"],
    ["x".repeat(300), "200"],
  ])("filter %s", (filter, text) => {
    expect(mistakes(wireQuerySchema, { filter })).toContain(text);
  });

  it("takes bytes in hexadecimal only where they are", () => {
    expect(mistakes(publishSchema, { topic: "a", payload: "A0 01", as: "hex" })).toBe("none");
    expect(mistakes(publishSchema, { topic: "a", payload: "A0 0", as: "hex" })).toContain("bytes in hexadecimal");
    expect(mistakes(publishSchema, { topic: "a", payload: "x".repeat(5_000) })).toContain("4096");
  });
});
