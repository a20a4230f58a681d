/** A device as its form holds it: there and back, and what is missing is said. */
import type { SiteDescription } from "@bold-relay/core";
import { describe, expect, it } from "vitest";
import { draftOf, emptyChannel, siteWith } from "../../src/pages/devices/device-draft.ts";

const site: SiteDescription = {
  slug: "alder-row",
  name: "Alder Row",
  rooms: [
    {
      slug: "wren",
      name: "Wren",
      devices: [
        {
          slug: "cupboard",
          name: "Cupboard board",
          profile: "json-board",
          channels: [
            { slug: "porch", name: "Porch lantern", kind: "light", index: 3, reversed: true },
            { slug: "pump", name: "Pump", kind: "relay", delivery: { autoOffMs: 60_000 } },
          ],
        },
      ],
    },
  ],
};
const draft = () => {
  const found = draftOf(site, "cupboard");
  if (!found) throw new Error("no draft");
  return found;
};

describe("a device in its form", () => {
  it("that nobody changed makes the same site", () => {
    expect(siteWith(site, draft(), true)).toMatchObject(site);
  });

  it("keeps what the form does not show: a pump still goes off by itself", () => {
    const [porch, pump] = draft().channels;
    if (!porch || !pump) throw new Error("no channels");
    const renamed = siteWith(site, { ...draft(), channels: [porch, { ...pump, name: "Garden pump" }] }, true);
    expect(renamed.rooms[0]?.devices[0]?.channels[1]).toMatchObject({
      name: "Garden pump",
      delivery: { autoOffMs: 60_000 },
    });
  });

  it("gets its identifiers from its names", () => {
    const channels = [{ ...emptyChannel(), name: "Äußere Lampe 2" }];
    const added = siteWith(site, { ...draft(), slug: "Boiler room", room: "Cellar, left", channels }, false);
    const [, cellar] = added.rooms;
    expect([cellar?.slug, cellar?.devices[0]?.slug]).toEqual(["cellar-left", "boiler-room"]);
    expect(cellar?.devices[0]?.channels[0]?.slug).toMatch(/^[a-z0-9-]+$/);
  });

  it("goes into the room that is there, however it is written", () => {
    const added = siteWith(site, { ...draft(), slug: "second", room: " WREN " }, false);
    expect(added.rooms.map(({ devices }) => devices.length)).toEqual([2]);
  });

  it("says what is missing, and never takes the place of another one", () => {
    expect(() => siteWith(site, { ...draft(), channels: [emptyChannel()] }, true)).toThrow(/needs a channel/);
    expect(() => siteWith(site, draft(), false)).toThrow(/already/);
    expect(draftOf(site, "elsewhere")).toBeNull();
  });
});
