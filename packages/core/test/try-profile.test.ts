/** A profile, tried before it is used: what it would write, how it would read, and what that would prove. */
import { describe, expect, it } from "vitest";
import { type HeardMessage, nearestProfiles, type Profile, tryProfile } from "../src/index.ts";

const words: Profile = {
  slug: "capitals",
  name: "Capital words",
  codec: { form: "text", words: { on: "ON", off: "OFF" } },
  topics: { do: "{device}/{channel}/set", done: null, is: "{device}/{channel}/state", here: "{device}/alive" },
  delivery: {},
};

const lamp = { slug: "lamp", name: "Lamp", kind: "light" } as const;
const shed = { slug: "shed", channels: [lamp] };

const heard = (topic: string, text: string, retained = false): HeardMessage => {
  return { topic, payload: new TextEncoder().encode(text), retained };
};

describe("a profile that is tried", () => {
  it("shows what each action would write, byte for byte", () => {
    const { writes, findings } = tryProfile(words, "site", shed, []);
    expect(findings.filter(({ level }) => level === "wrong")).toEqual([]);
    expect(
      writes.map(({ action, to, topic, payload, bytes, qos }) => [action, to, topic, payload, bytes, qos]),
    ).toEqual([
      ["on", "on", "shed/lamp/set", "ON", 2, 1],
      ["off", "off", "shed/lamp/set", "OFF", 3, 1],
    ]);
    for (const { expiryS, retain } of writes) expect([expiryS > 0, retain]).toEqual([true, false]);
  });

  it("shows how a message would be read, and what it would prove", () => {
    const { reads } = tryProfile(words, "site", shed, [
      heard("shed/lamp/state", "ON"),
      heard("shed/lamp/state", "OFF", true),
      heard("shed/lamp/state", "maybe"),
      heard("shed/lamp/set", "ON"),
      heard("elsewhere", "ON"),
    ]);
    expect(reads.map(({ takenFor, channel, means }) => [takenFor, channel, means])).toEqual([
      ["report", "lamp", "on"],
      ["report", "lamp", "off"],
      [null, "lamp", expect.stringContaining("maybe")],
      ["command", "lamp", "a command"],
      [null, null, "no channel of this device has this topic"],
    ]);
    expect(reads[0]?.proves).toBe("confirmed, of a command to be on; contradicted, of any other");
    expect(reads[1]?.proves).toBe("nothing: it is retained, and may be of any age");
    expect(reads[2]?.proves).toBe("nothing, and its state is not known until it reports again");
    for (const read of reads.slice(3)) expect(read.proves).toBe("nothing");
  });

  it("judges a number as the service does: only what is written for a level confirms it", () => {
    const fan: Profile = { ...words, codec: { form: "text", range: [0, 10] } };
    const dimmed = { ...shed, channels: [{ ...lamp, kind: "dimmer" as const }] };
    const said = (payload: string, more: Partial<Profile> = {}) =>
      tryProfile({ ...fan, ...more }, "site", dimmed, [heard("shed/lamp/state", payload)]).reads[0];
    expect([said("4")?.means, said("4")?.proves]).toEqual([
      "40 %",
      "confirmed, of a command to be 35 % to 44 %; contradicted, of any other",
    ]);
    expect(said("4.5")?.proves).toBe("nothing of a command: no value is written like this");
    expect([said("on")?.means, said("on")?.proves]).toEqual([
      "on, level not reported",
      "nothing of a command: no value is written like this",
    ]);
    expect(said("4", { delivery: { tolerance: 1 } })?.proves).toMatch(/to be 25 % to 54 %/);
  });

  it("says what is wrong with it, as loading it would", () => {
    const { findings } = tryProfile(
      { ...words, topics: { ...words.topics, do: "{device}/set" } },
      "site",
      {
        slug: "shed",
        channels: [lamp, { ...lamp, slug: "fan", name: "Fan" }],
      },
      [],
    );
    expect(findings.some(({ level }) => level === "wrong")).toBe(true);
  });
});

describe("the nearest profiles", () => {
  const json: Profile = { ...words, slug: "json", name: "JSON", codec: "json" };

  it("are those that understand most of what was heard; those that understand nothing are left out", () => {
    const fits = nearestProfiles([json, words], [heard("t", "ON"), heard("t", "OFF"), heard("t", "{")]);
    expect(fits).toEqual([{ profile: "capitals", name: "Capital words", understood: 2, exact: 2 }]);
  });

  it("are none where nothing was heard", () => {
    expect(nearestProfiles([json, words], [])).toEqual([]);
  });
});
