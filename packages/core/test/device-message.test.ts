/** What one message says, by what its topic is for. */
import { describe, expect, it } from "vitest";
import {
  buildSnapshot,
  type ChannelId,
  type ChannelRecord,
  type Profile,
  readDeviceMessage,
  type TopicUse,
} from "../src/index.ts";

const bytes = (payload: unknown) =>
  new TextEncoder().encode(typeof payload === "string" ? payload : JSON.stringify(payload));

function usesOf(topics: Partial<Profile["topics"]>, codec: Profile["codec"] = "json"): ReadonlyMap<string, TopicUse> {
  const all = { do: "b/{channel}/do", done: null, is: null, here: null, ...topics };
  const profile: Profile = { slug: "p", name: "P", codec, topics: all, delivery: {} };
  const record = (id: number, slug: string): ChannelRecord => ({
    ...{ id: id as ChannelId, number: id, slug, name: slug, kind: "relay", delivery: {}, wiring: {}, profile },
    ...{ site: { slug: "hall", name: "Hall" }, room: { slug: "porch", name: "Porch" } },
    device: { id: 1, slug: "board", name: "Board" },
  });
  return buildSnapshot([record(1, "one"), record(2, "two")]).byTopic;
}

function said(topic: string, payload: unknown, uses: ReadonlyMap<string, TopicUse>) {
  const use = uses.get(topic);
  if (!use) throw new Error(`no use of ${topic}`);
  return readDeviceMessage(use, bytes(payload), topic);
}

describe("a message of a device", () => {
  it("on a channel's topics is an acknowledgement or a report of that channel", () => {
    const uses = usesOf({ done: "b/{channel}/done", is: "b/{channel}/is" });
    const done = said("b/two/done", { id: "0192b3c4-0000-7000-8000-000000000001", ok: true, code: 1 }, uses);
    expect(done).toMatchObject({ says: "evidence", byTurns: false, about: [{ channel: { slug: "two" } }] });
    const report = said("b/one/is", { to: "on", by: "hand" }, uses);
    expect(report).toMatchObject({
      says: "evidence",
      about: [{ message: { answer: null, report: { value: "on", by: "hand" } } }],
    });
  });

  it("on a topic that all channels share, without their names, is told once and not to each", () => {
    const uses = usesOf({ done: "b/done" }, { form: "text", done: { pattern: "{result}" } });
    const message = said("b/done", "ok", uses);
    expect(message).toMatchObject({ says: "evidence", byTurns: true });
    expect(message?.says === "evidence" && message.about.length).toBe(1);
  });

  it("that names none of the channels of its topic says nothing, and of whom it may have been", () => {
    const uses = usesOf({ is: "b/is" }, { form: "text", do: "{value}", is: "{channel} {value}" });
    expect(said("b/is", "three ON", uses)).toMatchObject({
      says: "nothing",
      why: "it names none of the channels of this topic",
      channels: [{ slug: "one" }, { slug: "two" }],
    });
  });

  it("is presence on its presence topic; what is no presence there says nothing", () => {
    const uses = usesOf({ here: "b/here" });
    expect(said("b/here", { up: true, boot: "7" }, uses)).toEqual({
      says: "presence",
      device: "hall/board",
      presence: { up: true, boot: "7" },
    });
    expect(said("b/here", "BANANA", uses)).toMatchObject({ says: "nothing", channels: [] });
  });

  it("on a command topic is a command of somebody else; an empty one is the end of a retained one", () => {
    const uses = usesOf({});
    expect(said("b/one/do", { to: "on" }, uses)).toMatchObject({ says: "command", channels: [{ slug: "one" }] });
    expect(said("b/one/do", "", uses)).toBeNull();
  });
});
