/** Frames of a link between two instances, against somebody on the way. */
import fc from "fast-check";
import { expect, it } from "vitest";
import { LinkSeal } from "../../src/peers/link-seal.ts";
import { PeerProof } from "../../src/peers/peer-proof.ts";

const KEY = Buffer.alloc(32, 5);
const texts = fc.array(fc.string({ unit: "grapheme" }), { minLength: 1, maxLength: 6 });
const sealed = (all: readonly string[], from: "caller" | "answerer" = "caller") => {
  const seal = new LinkSeal(KEY, from);
  return all.map((text) => Buffer.from(seal.seal(text)));
};

it("what one side seals the other side reads, in its order", () => {
  fc.assert(
    fc.property(texts, (all) => {
      const reader = new LinkSeal(KEY, "caller");
      expect(sealed(all).map((frame) => reader.open(frame))).toEqual(all);
    }),
  );
});

it("a frame that is altered anywhere is not read", () => {
  fc.assert(
    fc.property(fc.string(), fc.nat(), fc.integer({ min: 1, max: 255 }), (text, at, change) => {
      const [frame = Buffer.alloc(0)] = sealed([text]);
      const index = at % frame.length;
      frame[index] = (frame[index] ?? 0) ^ change;
      expect(new LinkSeal(KEY, "caller").open(frame)).toBeNull();
    }),
  );
});

it("a frame that is repeated, left out, cut short or sent back is not read", () => {
  const [first, second] = sealed(["one", "two"]) as [Buffer, Buffer];
  const repeated = new LinkSeal(KEY, "caller");
  expect([repeated.open(first), repeated.open(first)]).toEqual(["one", null]);
  expect(new LinkSeal(KEY, "caller").open(second)).toBeNull();
  expect(new LinkSeal(KEY, "caller").open(first.subarray(0, 20))).toBeNull();
  expect(new LinkSeal(KEY, "answerer").open(first)).toBeNull();
});

it("two links of the same instances have different keys, and another installation has none", () => {
  const proof = new PeerProof(Buffer.alloc(32, 7));
  const nonce = proof.newChallenge();
  const [one, other] = [proof.linkAnswer(nonce), proof.linkAnswer(nonce)];
  expect(one.key.equals(other.key)).toBe(false);
  expect(proof.linkKey(nonce, one.header)?.equals(one.key)).toBe(true);
  expect(proof.linkKey(proof.newChallenge(), one.header)).toBeNull();
  expect(new PeerProof(Buffer.alloc(32, 8)).linkKey(nonce, one.header)).toBeNull();
});
