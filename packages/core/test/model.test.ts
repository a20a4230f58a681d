/** Descriptions of sites: checked, compared, edited. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  accessLines,
  accessOf,
  type ChannelDescription,
  checkSite,
  compareSites,
  covers,
  type DeviceDescription,
  deviceOf,
  kindNames,
  type Profile,
  type SiteDescription,
  type Surroundings,
  shippedProfiles,
  withDevice,
  withoutDevice,
} from "../src/index.ts";
import { snapshot } from "./support/site.ts";

const profiles = new Map<string, Profile>(shippedProfiles.map((profile) => [profile.slug, profile]));
const alone = { profiles, ownerOf: () => null };

const slug = fc.stringMatching(/^[a-z][a-z0-9]{0,5}$/);
const channel: fc.Arbitrary<ChannelDescription> = fc.record(
  { slug, name: fc.constantFrom("Porch", "Hall", "Path"), kind: fc.constantFrom(...kindNames), reversed: fc.boolean() },
  { requiredKeys: ["slug", "name", "kind"] },
);
const device: fc.Arbitrary<DeviceDescription> = fc.record({
  slug,
  name: fc.constantFrom("board", "box"),
  profile: fc.constantFrom(...profiles.keys()),
  channels: fc.uniqueArray(channel, { minLength: 1, maxLength: 4, selector: (one) => one.slug }),
});
const site: fc.Arbitrary<SiteDescription> = fc
  .uniqueArray(device, { maxLength: 6, selector: (one) => one.slug })
  .map((devices) => {
    const first = devices[0];
    const path = `${first?.slug}/${first?.channels[0]?.slug}`;
    return {
      slug: "s",
      name: "S",
      rooms: [
        { slug: "even", name: "Even", devices: devices.filter((_, index) => index % 2 === 0) },
        { slug: "odd", name: "Odd", devices: devices.filter((_, index) => index % 2 === 1) },
      ],
      groups: first ? [{ slug: "some", name: "Some", channels: [path] }] : [],
    };
  });

describe("comparing", () => {
  it("finds nothing between a site and itself, however its fields are ordered", () => {
    const turned = (value: unknown): unknown => {
      if (Array.isArray(value)) return value.map(turned);
      if (typeof value !== "object" || value === null) return value;
      return Object.fromEntries(
        Object.entries(value)
          .reverse()
          .map(([name, one]) => [name, turned(one)]),
      );
    };
    fc.assert(
      fc.property(site, (one) => {
        expect(compareSites(one, one)).toEqual([]);
        expect(compareSites(one, turned(one) as SiteDescription)).toEqual([]);
      }),
    );
  });

  it("what is added one way is removed the other way, and what changed changes back", () => {
    const opposite = { added: "removed", removed: "added", changed: "changed" } as const;
    const names = (changes: ReturnType<typeof compareSites>) =>
      changes.map(({ what, name, change }) => `${change} ${what} ${name}`).sort();
    fc.assert(
      fc.property(site, site, (one, other) => {
        const back = compareSites(other, one).map((each) => ({ ...each, change: opposite[each.change] }));
        expect(names(compareSites(one, other))).toEqual(names(back));
      }),
    );
  });
});

describe("editing", () => {
  it("a device that is put in is there, once, and the others stay as they were", () => {
    fc.assert(
      fc.property(site, device, (one, added) => {
        const next = withDevice(one, { slug: "odd", name: "Odd" }, added);
        expect(deviceOf(next, added.slug)).toEqual(added);
        expect(next.rooms.flatMap((room) => room.devices).filter(({ slug: of }) => of === added.slug)).toHaveLength(1);
        const others = compareSites(one, next).filter(({ what, name }) => what === "device" && name !== added.slug);
        expect(others).toEqual([]);
        expect(withDevice(next, { slug: "odd", name: "Odd" }, added)).toEqual(next);
      }),
    );
  });

  it("a device that is taken out leaves nothing that names it", () => {
    fc.assert(
      fc.property(site, (one) => {
        const gone = one.rooms[0]?.devices[0];
        if (!gone) return;
        const next = withoutDevice(one, gone.slug);
        expect(deviceOf(next, gone.slug)).toBeNull();
        expect(JSON.stringify(next.groups)).not.toContain(`"${gone.slug}/`);
      }),
    );
  });
});

describe("checking", () => {
  it("finds the same whatever stands around, and never throws", () => {
    fc.assert(
      fc.property(site, (one) => {
        for (const { at, text, level } of checkSite(one, alone)) {
          expect(at).toMatch(/^(devices|groups|scenes|interlocks)\//);
          expect([text.length > 10, ["wrong", "doubt"].includes(level)]).toEqual([true, true]);
        }
      }),
    );
  });

  const one = (more: Partial<DeviceDescription>, rest: Partial<SiteDescription> = {}): SiteDescription => ({
    slug: "s",
    name: "S",
    rooms: [
      {
        slug: "r",
        name: "R",
        devices: [
          {
            slug: "d",
            name: "board",
            profile: "new-device",
            channels: [{ slug: "a", name: "A", kind: "relay" }],
            ...more,
          },
        ],
      },
    ],
    ...rest,
  });
  const relay = (slug: string) => ({ slug, name: slug, kind: "relay" }) as const;
  const motor = (slug: string) => ({ slug, name: slug, kind: "motor", delivery: { autoOffMs: 9_000 } }) as const;
  const twoDevices = (more: Partial<DeviceDescription>) => {
    const [room] = one(more).rooms;
    const [device] = room?.devices ?? [];
    return room && device ? [{ ...room, devices: [device, { ...device, slug: "e" }] }] : [];
  };
  const findings = (described: SiteDescription, around: Surroundings = alone) =>
    checkSite(described, around).map(({ level, text }) => `${level}: ${text}`);

  it.each([
    [
      "a motor that nothing stops",
      one({ channels: [{ slug: "m", name: "M", kind: "motor" }] }),
      "doubt: is a motor that nothing stops",
    ],
    [
      "a hold that cannot be kept",
      one({ channels: [{ slug: "m", name: "M", kind: "motor", delivery: { holdForMs: 500 } }] }),
      "doubt: is held to run, but does not time itself",
    ],
    [
      "a relay that takes no commands",
      one({ profile: "readings" }),
      "wrong: is a relay, but its profile takes no commands",
    ],
    [
      "a target stage beyond what is said",
      one({
        profile: "single-characters",
        channels: [{ slug: "a", name: "A", kind: "relay", delivery: { targetStage: "acknowledged" } }],
      }),
      "wrong: has the target stage acknowledged, but its profile neither answers nor reports",
    ],
    [
      "a reading in a group",
      one(
        { profile: "readings", channels: [{ slug: "t", name: "T", kind: "sensor" }] },
        { groups: [{ slug: "g", name: "G", channels: ["d/t"] }] },
      ),
      "wrong: holds d/t, which nothing can be asked of",
    ],
    [
      "a command topic that two channels share, and nothing in the payload names them",
      one({ topics: { do: "old board/set" }, channels: [relay("a"), relay("b")] }),
      "wrong: shares its do topic with a",
    ],
    [
      "a stop topic that two motors share, and nothing in the payload names them",
      one({ topics: { stop: "d/halt" }, channels: [motor("a"), motor("b")] }),
      "wrong: shares its stop topic with a",
    ],
    [
      "a stop that goes to the command topic of another",
      one({ topics: { stop: "s/d/a/do" }, channels: [relay("a"), motor("b")] }),
      "wrong: shares its stop topic s/d/a/do with the do topic of a",
    ],
    [
      "a presence topic that two devices share",
      { ...one({ topics: { here: "all/here" } }), rooms: twoDevices({ topics: { here: "all/here" } }) },
      "wrong: uses the topic all/here, which belongs to s/d.",
    ],
    ["a contact's meaning on a relay", one({ channels: [{ ...relay("a"), made: "shut" }] }), "only a contact does"],
    [
      "a calibration upside down",
      one({ channels: [{ ...relay("a"), kind: "dimmer", calibration: { least: 60, most: 50 } }] }),
      "wrong: has a least useful level of 60 %",
    ],
    [
      "impulses that nothing sees",
      one({ topics: { is: null }, channels: [{ ...relay("a"), drive: "impulse" }] }),
      "nothing tells what it is",
    ],
    [
      "impulses that would have to be repeated",
      one({ channels: [{ ...relay("a"), drive: "impulse", delivery: { autoOffMs: 60_000 } }] }),
      "never repeated unasked",
    ],
    [
      "a channel that is seen by nothing there is",
      one({ channels: [{ ...relay("a"), seenBy: { channel: "d/meter", above: 5 } }] }),
      "wrong: is seen by d/meter, which is no channel of the site.",
    ],
    [
      "a channel that sees itself",
      one({ channels: [{ ...relay("a"), seenBy: { channel: "d/a" } }] }),
      "wrong: is seen by d/a, which does not tell its own state.",
    ],
    [
      "a reading without thresholds",
      one({
        channels: [
          { ...relay("a"), seenBy: { channel: "d/t" } },
          { slug: "t", name: "T", kind: "sensor" },
        ],
      }),
      "needs thresholds",
    ],
  ] as const)("names %s", (_about, described, text) => {
    expect(findings(described).join("\n")).toContain(text);
  });

  it("names a topic that another device has", () => {
    const ownerOf = (topic: string) => (topic === "s/d/a/is" ? "other/box" : null);
    expect(findings(one({}), { profiles, ownerOf })).toEqual([
      "wrong: uses the topic s/d/a/is, which belongs to other/box.",
    ]);
  });
});

describe("what a device may do at the broker", () => {
  it("covers its own topics, and none of a neighbour's", () => {
    const devices = [...snapshot.byDevice.values()];
    for (const own of devices) {
      const { reads, writes } = accessOf(own);
      expect(reads).toEqual(own.flatMap(({ topics }) => topics.do ?? []).sort());
      for (const neighbour of devices.filter((each) => each !== own)) {
        const theirs = neighbour.flatMap(({ topics }) =>
          [topics.do, topics.done, topics.is].filter((topic) => topic !== null),
        );
        for (const mine of [...reads, ...writes]) expect(theirs.filter((topic) => covers(mine, topic))).toEqual([]);
      }
    }
  });

  it("is one line where a topic serves both ways", () => {
    expect(accessLines("s.d", { reads: ["a", "b"], writes: ["b", "c"] })).toEqual([
      "user s.d",
      "topic readwrite b",
      "topic read a",
      "topic write c",
    ]);
  });
});
