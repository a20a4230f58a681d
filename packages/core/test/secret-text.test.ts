/** What is a key of ours is found wherever it was pasted; what people write is left as it is. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { A_KEY_WAS_HERE, withoutSecrets, withoutSecretsIn } from "../src/index.ts";

/** Put together, so that nothing takes it for one that leaked. */
const KEY = ["brk", "2vXqO0pA9yQwErTyUiOpAsDfGhJkLzXcVbNm1234567"].join("_");

/** As long as those of links for a new password. */
const TOKEN = "3sR7tYuIoPaSd".padEnd(43, "Zx9_");

describe("a text", () => {
  it.each([
    [KEY],
    [`Bearer ${KEY}`],
    [`turn on ${KEY}, please`],
    [`porch${KEY}`],
    [["whsec", "MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw"].join("_")],
    [`https://relay.example/panel/kitchen#${KEY}`],
    [`https://relay.example/reset#${TOKEN}`],
    [`https://relay.example/reset/${TOKEN}`],
    [`http://127.0.0.1:4180/setup#${TOKEN}`],
    [`https://relay.example/in/gate/link#eyJwIjoiZ2F0ZSJ9.${TOKEN}`],
  ])("keeps nothing of the key in “%s”", (text) => {
    const kept = withoutSecrets(text);
    expect(kept).toContain(A_KEY_WAS_HERE);
    expect(kept).not.toMatch(/[A-Za-z0-9_-]{16,}/);
  });

  it.each([
    "alder-row/link/living-room-ceiling-left",
    `alder-row/setup/${"a".repeat(40)}`,
    "glasshouse/reset/misting-pump-second-bed-north",
    ["panels/brk", "main/circuit-twelve-and-thirteen"].join("_"),
    "see /panel/kitchen-and-living-room-of-the-cottage",
    "porch lantern on",
    "brk_ is how keys begin",
    "see /panel/kitchen",
    "the link/reset page",
    "a /setup# of it",
  ])("without one is left as it is: “%s”", (text) => expect(withoutSecrets(text)).toBe(text));

  it("holds none after it, whatever stands around it", () => {
    fc.assert(
      fc.property(fc.string(), fc.string(), (before, after) => {
        expect(withoutSecrets(`${before}${KEY} ${after}`)).not.toContain(KEY.slice(4));
      }),
    );
  });
});

describe("a document", () => {
  it("is cleaned at any depth, in names too", () => {
    const kept = withoutSecretsIn({ a: [{ [KEY]: { b: `x ${KEY}` } }], n: 1, t: true, e: null });
    expect(kept).toEqual({ a: [{ [A_KEY_WAS_HERE]: { b: `x ${A_KEY_WAS_HERE}` } }], n: 1, t: true, e: null });
  });

  it("without one is the same object", () => {
    const document = { words: "porch on" };
    expect(withoutSecretsIn(document)).toBe(document);
  });
});
