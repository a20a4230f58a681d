/** Which event of a press is meant, from what a finger or a door does. */
import { describe, expect, it } from "vitest";
import { type InputEvent, meantBy, nearestWords } from "../src/index.ts";

const events = (...all: string[]) =>
  all.map((text) => ({ event: text.replace("!", "") as InputEvent, isFree: !text.endsWith("!") }));

describe("who presses a button means", () => {
  it.each([
    ["one press", ["on", "off", "once"], "once"],
    ["a press twice, of which each is also one", ["on", "off", "once!", "on", "twice", "off", "once!"], "twice"],
    ["a long press, which is no short one", ["on", "long", "off"], "long"],
    ["a press that is still held", ["on", "long"], "long"],
    ["a door that opens and stays open", ["on", "once"], "on"],
    ["a door that shuts", ["off"], "off"],
  ])("%s", (_what, told, meant) => {
    expect(meantBy(events(...told))).toBe(meant);
  });

  it("nothing new where that press has a route: its being made is part of every press", () => {
    expect(meantBy(events("on", "off", "once!"))).toBeNull();
    expect(meantBy(events("on", "off", "once", "on", "twice!", "off", "once"))).toBeNull();
    expect(meantBy(events("on", "long!", "off"))).toBeNull();
  });
});

describe("the nearest words", () => {
  it("begin alike, or are spelt nearly so; short words need to be nearer", () => {
    expect(nearestWords("stat", ["send", "status", "state", "watch"])).toEqual(["state", "status"]);
    expect(nearestWords("devcies", ["devices", "log"])).toEqual(["devices"]);
    expect(nearestWords("nope", ["move", "zone"])).toEqual([]);
    expect(nearestWords("LOAD", ["load"])).toEqual(["load"]);
  });
});
