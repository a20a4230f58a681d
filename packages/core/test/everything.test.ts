/** "Everything": how far it reaches, what it leaves out, and that no hint is wider than what was asked. */
import { describe, expect, it } from "vitest";
import { buildVocabulary, type ChannelId, type PhraseAsk, readPhrase } from "../src/index.ts";
import { EVERYTHING, everythingSnapshot, HINTED } from "./support/everything.ts";

const snapshot = everythingSnapshot();
const vocabulary = buildVocabulary(snapshot, ["alder-row"]);
const slugOf = (id: ChannelId) => snapshot.byId.get(id)?.slug ?? "?";

function inShort({ target, among, action }: PhraseAsk): string {
  return `${action} ${among === null ? (target.split("/").at(-1) ?? "") : among.map(slugOf).join(" ")}`;
}

function read(phrase: string): string {
  const reading = readPhrase(phrase, vocabulary);
  if (reading.reads === "asks") return reading.asks.map(inShort).join(" + ");
  if (reading.reads !== "which") return reading.reads;
  return `which ${reading.choices.map(({ address }) => address.split("/")[1] ?? "*").join(" ")}`;
}

describe("everything", () => {
  it.each(EVERYTHING)("%s → %s", (phrase, expected) => {
    expect(read(phrase)).toBe(expected);
  });

  it("reaches as far as the sender says when asked", () => {
    const phrase = "everything off except the porch lantern in wren";
    const reading = readPhrase(phrase, vocabulary);
    if (reading.reads !== "which") throw new Error(reading.reads);
    const answered = (address: string) => readPhrase(phrase, vocabulary, new Map([[reading.at, address]]));
    const inRoom = answered("alder-row/wren");
    const all = answered("alder-row");
    expect(inRoom.reads === "asks" && inRoom.asks.map(inShort)).toEqual(["off wd wt"]);
    expect(all.reads === "asks" && all.asks.map(inShort)).toEqual(["off wd wt fp pl"]);
  });

  it("tells what it left out", () => {
    const reading = readPhrase("everything in wren off", vocabulary);
    expect(reading.reads === "asks" && reading.used.at(-1)).toEqual({
      words: "everything",
      gave: "not Water heater, Wren: asked by name only",
    });
  });

  it.each(HINTED)("%s: no hint is wider than what was asked", (phrase) => {
    const reading = readPhrase(phrase, vocabulary);
    if (reading.reads !== "nothing") throw new Error(reading.reads);
    for (const hint of reading.nearest) expect(hint).not.toMatch(/\beverything\b|\ball\b/i);
  });
});
