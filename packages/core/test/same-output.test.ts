/** One output, one owner: descriptions that would move an output under a second name. From the attacker's aim, several ways. */
import { describe, expect, it } from "vitest";
import {
  buildSnapshot,
  type ChannelDescription,
  type ChannelId,
  checkSite,
  type DeviceDescription,
  obeys,
  type Profile,
  recordsOf,
  type SiteDescription,
  twinsOf,
} from "../src/index.ts";

const OWN_TOPICS: Profile = {
  slug: "own",
  name: "Topics of its own",
  codec: "word",
  topics: { do: "{site}/{device}/{channel}/do", done: null, is: "{site}/{device}/{channel}/is", here: null },
  delivery: {},
};
const IN_TOPIC: Profile = {
  ...OWN_TOPICS,
  slug: "in-topic",
  topics: { ...OWN_TOPICS.topics, do: "{site}/{device}/{channel}/{value}" },
};
const NUMBERED: Profile = {
  slug: "numbered",
  name: "One topic, numbers in the payload",
  codec: { form: "text", do: "{index}{value}", is: "{index}{value}" },
  topics: { do: "{site}/{device}/do", done: null, is: "{site}/{device}/is", here: null },
  delivery: {},
};
const profiles = new Map([OWN_TOPICS, IN_TOPIC, NUMBERED].map((profile) => [profile.slug, profile]));

const channel = (slug: string, more: Partial<ChannelDescription> = {}): ChannelDescription => ({
  slug,
  name: slug,
  kind: "relay",
  ...more,
});
const device = (profile: string, channels: ChannelDescription[], slug = "box"): DeviceDescription => ({
  slug,
  name: slug,
  profile,
  channels,
});
const site = (...devices: DeviceDescription[]): SiteDescription => ({
  slug: "s",
  name: "S",
  rooms: [{ slug: "r", name: "R", devices }],
});
const wrong = (described: SiteDescription) =>
  checkSite(described, { profiles, ownerOf: () => null }).filter(({ level }) => level === "wrong");

describe("a second name for an output is refused", () => {
  it.each<[string, SiteDescription]>([
    [
      "in the same device, by its literal topic",
      site(device("own", [channel("pump"), channel("lamp", { topics: { do: "s/box/pump/do" } })])),
    ],
    [
      "in another device, by its literal topic",
      site(
        device("own", [channel("pump")]),
        device("own", [channel("lamp", { topics: { do: "s/box/pump/do" } })], "b"),
      ),
    ],
    [
      "by a stop topic",
      site(device("own", [channel("pump"), channel("vent", { kind: "motor", topics: { stop: "s/box/pump/do" } })])),
    ],
    [
      "by the topic of one value, where the other says its values in topics",
      site(device("in-topic", [channel("pump"), channel("lamp", { topics: { do: "s/box/pump/on" } })])),
    ],
    [
      "by a value in a topic that covers the whole topic of the other",
      site(device("own", [channel("pump"), channel("lamp", { topics: { do: "s/box/pump/{value}" } })])),
    ],
    ["by a question", site(device("own", [channel("pump"), channel("lamp", { topics: { ask: "s/box/pump/do" } })]))],
    [
      "by a report that its board writes there",
      site(device("own", [channel("pump"), channel("lamp", { topics: { is: "s/box/pump/do" } })])),
    ],
    [
      "by the topics of a device",
      site(device("own", [channel("pump")]), {
        ...device("own", [channel("lamp")], "b"),
        topics: { do: "s/box/pump/do" },
      }),
    ],
    [
      "by its number, on a board that the payload does not name",
      site(device("numbered", [channel("pump", { index: 1 }), channel("lamp", { index: 1, node: "other" })])),
    ],
    [
      "by words that begin with the rest of a number",
      site(
        device("numbered", [
          channel("lamp", { index: 1, words: { on: "1on", off: "1off" } }),
          channel("pump", { index: 11, words: { on: "on", off: "off" } }),
        ]),
      ),
    ],
    [
      "by a level that reads like a word of another number",
      site(
        device("numbered", [
          channel("lamp", { index: 1, kind: "dimmer" }),
          channel("pump", { index: 11, words: { on: "1", off: "x" } }),
        ]),
      ),
    ],
  ])("%s", (_how, described) => {
    expect(wrong(described)).not.toEqual([]);
  });

  it("and boards that share a topic and name their channels are not", () => {
    expect(wrong(site(device("numbered", [channel("pump"), channel("lamp"), channel("fan")])))).toEqual([]);
    expect(wrong(site(device("in-topic", [channel("pump"), channel("lamp")])))).toEqual([]);
  });
});

describe("in a description that was saved before that was refused", () => {
  const described = site(
    device("own", [
      channel("up"),
      channel("down"),
      channel("other"),
      channel("twin", { topics: { do: "s/box/up/do" } }),
    ]),
  );
  let next = 0;
  const records = recordsOf(described, profiles, () => {
    next += 1;
    return next as ChannelId;
  });
  const interlocks = [{ name: "skylight", channels: ["box/up", "box/down"], meets: "refuse" as const }];
  const snapshot = buildSnapshot(records, [{ slug: "s", name: "S", interlocks }]);
  const named = (path: string) => snapshot.byAddress.get(`s/box/${path}`) ?? expect.unreachable();

  it("the twin is known", () => {
    expect(twinsOf(named("up"), snapshot)).toEqual([named("twin")]);
    expect(twinsOf(named("other"), snapshot)).toEqual([]);
    const message = { topic: "s/box/up/do", payload: new TextEncoder().encode("on") };
    expect([obeys(named("up"), message), obeys(named("other"), message)]).toEqual([true, false]);
  });

  it("and its partners of an interlock hold it as they hold its original", () => {
    const [held] = snapshot.interlocks.get(named("twin").id) ?? [];
    expect(held?.channels).toEqual([named("down").id, named("twin").id]);
    expect(snapshot.interlocks.get(named("other").id)).toBeUndefined();
  });
});
