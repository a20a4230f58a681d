/** Names word by word: each is found as the whole that it is, and names of other sites are as if there were none. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { buildSnapshot, buildVocabulary, type ChannelRecord, tokensOf } from "../src/index.ts";
import { nameAt } from "../src/phrase/vocabulary.ts";
import { record } from "./support/site.ts";

const word = fc.constantFrom("porch", "lantern", "hall", "in", "the", "wren's", "2", "north-side", "Gate,", "É");
const name = fc.array(word, { minLength: 1, maxLength: 3 }).map((words) => words.join(" "));

/** Channels with these names, in rooms and at sites with those. */
function channels(names: readonly { own: string; room: string; site: "Alder Row" | "Fennel Hall" }[]): ChannelRecord[] {
  const sorted = [...names].sort((one, other) => one.site.localeCompare(other.site));
  return sorted.map(({ own, room, site }, index) => {
    const slug = site.toLowerCase().replace(" ", "-");
    return record(index + 1, room, own, {
      slug: `c-${index}`,
      site: { slug, name: site },
      room: { slug: `r-${index}`, name: room },
      device: { id: index + 1, slug: `board-${index}`, name: "board" },
    });
  });
}

const described = fc.array(
  fc.record({ own: name, room: name, site: fc.constantFrom("Alder Row" as const, "Fennel Hall" as const) }),
  { minLength: 1, maxLength: 6 },
);

describe("the tree of names", () => {
  it("finds whatever a channel is called, to the end", () => {
    fc.assert(
      fc.property(described, (names) => {
        const snapshot = buildSnapshot(channels(names));
        const vocabulary = buildVocabulary(snapshot, null);
        for (const [text, all] of snapshot.byName) {
          const tokens = tokensOf(text).filter(({ text: one }) => /[\p{L}\p{N}]/u.test(one));
          const found = nameAt(vocabulary, tokens, 0);
          expect([text, found?.end]).toEqual([text, tokens.length]);
          const addresses = found?.things.flatMap((thing) => (thing.is === "channel" ? thing.channel.address : []));
          expect(addresses).toEqual(expect.arrayContaining(all.map(({ address }) => address)));
        }
      }),
    );
  });

  it("is the same for whoever may name one site, whatever the other has", () => {
    fc.assert(
      fc.property(described, fc.array(word, { maxLength: 6 }), (names, said) => {
        const mine = channels(names).filter(({ site }) => site.slug === "alder-row");
        const tokens = tokensOf(said.join(" "));
        const read = (records: readonly ChannelRecord[]) => {
          const vocabulary = buildVocabulary(buildSnapshot(records), ["alder-row"]);
          return tokens.map((_, at) => {
            const found = nameAt(vocabulary, tokens, at);
            return (
              found && [found.end, found.things.map((thing) => (thing.is === "channel" ? thing.channel.id : thing))]
            );
          });
        };
        expect(read(channels(names))).toEqual(read(mine));
      }),
    );
  });
});
