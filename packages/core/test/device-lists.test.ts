/** Devices from elsewhere: from tables, and from topics that nobody claims; and one commissioning beside another. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  candidatesFor,
  type DeviceRow,
  deviceRows,
  encodeText,
  type SiteDescription,
  shippedProfiles,
  stepsBefore,
  withDeviceRows,
} from "../src/index.ts";

const site: SiteDescription = {
  slug: "alder-row",
  name: "Alder Row",
  rooms: [
    {
      slug: "wren",
      name: "Wren",
      devices: [
        {
          slug: "board",
          name: "relay board",
          profile: "new-device",
          channels: [
            { slug: "porch", name: "Porch lantern", kind: "light", delivery: { attempts: 5 } },
            { slug: "pump", name: "Pump", kind: "relay", index: 7, reversed: true },
          ],
        },
      ],
    },
  ],
  groups: [{ slug: "all", name: "All", channels: ["board/porch", "board/pump"] }],
};

describe("a table of devices", () => {
  it("is what the site is, there and back, with what it has no column for", () => {
    expect(withDeviceRows(site, deviceRows(site))).toMatchObject(site);
  });

  it("adds and changes what it names, and leaves the rest", () => {
    const [porch] = deviceRows(site);
    const rows = [
      { ...(porch as DeviceRow), channel_name: "Porch light" },
      { ...(porch as DeviceRow), room: "finch", room_name: "Finch", device: "new", device_name: "new board" },
    ];
    const next = withDeviceRows(site, rows);
    expect(deviceRows(next).map(({ room, device, channel_name }) => [room, device, channel_name])).toEqual([
      ["wren", "board", "Porch light"],
      ["finch", "new", "Porch lantern"],
    ]);
    // Its pump went with the row that is missing, and out of the group too.
    expect(next.groups).toEqual([{ slug: "all", name: "All", channels: ["board/porch"] }]);
    expect(next.rooms[0]?.devices[0]?.channels[0]?.delivery).toEqual({ attempts: 5 });
  });

  it.each([
    [{ kind: "lamp" }, "Row 1: “lamp” is no kind."],
    [{ index: "first" }, "Row 1: “index” is first, which is no whole number."],
    [{ reversed: "perhaps" }, "Row 1: “reversed” is perhaps; it may be yes, no or empty."],
    [{ device: " " }, "Row 1: “device” is empty."],
  ])("names the row and what is wrong: %j", (wrong, message) => {
    const [row] = deviceRows(site);
    expect(() => withDeviceRows(site, [{ ...(row as DeviceRow), ...wrong }])).toThrow(message);
  });

  it("refuses a channel that stands there twice", () => {
    const [row] = deviceRows(site);
    expect(() => withDeviceRows(site, [row as DeviceRow, row as DeviceRow])).toThrow(
      "Row 2: board has a channel porch already.",
    );
  });

  it("changes nothing, or says why, whatever stands in it", () => {
    const cell = fc.constantFrom("", "a", "board", "porch", "relay", "light", "7", "yes", "=1+1", "ü", "-");
    const names = Object.keys(deviceRows(site)[0] ?? {});
    const row = fc.record(Object.fromEntries(names.map((name) => [name, cell])));
    fc.assert(
      fc.property(fc.array(row, { maxLength: 5 }), (rows) => {
        try {
          expect(deviceRows(withDeviceRows(site, rows)).length).toBeGreaterThan(0);
        } catch (error) {
          expect((error as Error).message).toMatch(/^Row \d/);
        }
      }),
    );
  });
});

describe("topics that nobody claims", () => {
  const heard = (all: Record<string, string>) =>
    Object.entries(all).map(([topic, payload]) => ({ topic, payload: encodeText(payload) }));

  it("are a device of the profile that explains most, to the letter", () => {
    const [first, ...others] = candidatesFor(
      "alder-row",
      shippedProfiles,
      heard({
        "alder-row/garage/door-lamp/state": "ON",
        "alder-row/garage/bench/state": "OFF",
        "alder-row/garage/online": "online",
        "someone/else/entirely": "ON",
      }),
    );
    expect(first).toEqual({
      profile: "capital-words",
      device: "garage",
      topics: 3,
      exact: 2,
      channels: [
        { slug: "door-lamp", name: "Door lamp", kind: "relay" },
        { slug: "bench", name: "Bench", kind: "relay" },
      ],
    });
    expect(others.every(({ exact }) => exact < 2)).toBe(true);
  });

  it("tell the kind by what is reported", () => {
    const [first] = candidatesFor(
      "hall",
      shippedProfiles.filter(({ slug }) => slug === "new-device"),
      heard({
        "hall/box/lamp/is": '{"to":"#ff8800"}',
        "hall/box/dimmer/is": '{"to":35}',
        "hall/box/fan/is": '{"to":"off","by":"boot"}',
        "hall/box/air/is": '{"to":21.5}',
        "hall/box/odd/is": "what",
      }),
    );
    expect(first?.channels.map(({ slug, kind }) => `${slug} ${kind}`)).toEqual([
      "lamp colour",
      "dimmer dimmer",
      "fan relay",
      "air sensor",
      "odd relay",
    ]);
    expect(first?.topics).toBe(4);
  });

  it("are nobody's at another site, and never more than was heard", () => {
    expect(candidatesFor("hall", shippedProfiles, heard({ "alder-row/garage/lamp/state": "ON" }))).toEqual([]);
    const level = fc.constantFrom("hall", "box", "lamp", "is", "state", "online", "do", "$x", "");
    const topic = fc.array(level, { minLength: 1, maxLength: 5 }).map((levels) => levels.join("/"));
    fc.assert(
      fc.property(fc.array(fc.record({ topic, payload: fc.uint8Array({ maxLength: 20 }) })), (all) => {
        for (const one of candidatesFor("hall", shippedProfiles, all)) {
          expect(one.topics).toBeLessThanOrEqual(new Set(all.map((each) => each.topic)).size);
          expect(one.exact).toBeLessThanOrEqual(one.topics);
        }
      }),
    );
  });
});

describe("a commissioning beside the one before", () => {
  it("tells only what was decided otherwise", () => {
    const now = [
      { name: "link", state: "passed" },
      { name: "presence", state: "failed" },
      { name: "hand", state: "ready" },
      { name: "new", state: "passed" },
    ] as const;
    const before = [
      { name: "link", state: "failed" },
      { name: "presence", state: "failed" },
      { name: "hand", state: "passed" },
    ] as const;
    expect(stepsBefore(now, before)).toEqual({ link: "failed" });
  });
});
