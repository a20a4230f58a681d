/** Names of members: what looks like another one's is refused, what people are called is not. */
import { describe, expect, it } from "vitest";
import { newMemberSchema } from "../src/schema/index.ts";

const errorOf = (name: string) => newMemberSchema.validate({ name }).error?.message ?? null;

describe("a name", () => {
  it.each([
    "Ines",
    "Tomás Ó Briain",
    "Anne-Marie",
    "Łukasz",
    "李小龍",
    "Ольга",
    "Ελένη",
    "Olga Ольга",
    "O'Brien",
    "Nguyễn Thị",
    "محمد",
  ])("is taken: %s", (name) => {
    expect(errorOf(name)).toBeNull();
  });

  it.each([
    ["a zero-width space", "In\u200bes"],
    ["a word joiner", "Ines\u2060"],
    ["a soft hyphen", "I\u00adnes"],
    ["a byte order mark", "\ufeffInes"],
    ["a joiner", "Ines\u200d"],
    ["a blank letter", "Ines\u3164"],
    ["a Cyrillic letter", "In\u0435s"],
    ["a Greek letter", "\u0399nes"],
    ["full-width letters", "\uff29nes"],
    ["mathematical letters", "\u{1d408}nes"],
    ["two spaces", "Ines  Maria"],
    ["a space that does not break", "Ines\u00a0Maria"],
    ["writing turned round", "Ines\u202e"],
  ])("is refused with %s", (_what, name) => {
    expect(errorOf(name)).not.toBeNull();
  });

  it("typed as letters and marks apart is the same name", () => {
    expect(newMemberSchema.validate({ name: "Tomas\u0301" }).value).toMatchObject({ name: "Tomaś" });
  });
});
