/** One part of a site changes, and nothing else does. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { compareSites, RelayError, type SiteDescription, type SiteEdit, withEdit } from "../src/index.ts";

const lamp = (slug: string) => ({ slug, name: `Lamp ${slug}`, kind: "light" as const });

const site: SiteDescription = {
  slug: "alder-row",
  name: "Alder Row",
  rooms: [
    {
      slug: "wren",
      name: "Wren",
      devices: [{ slug: "wren", name: "board", profile: "own", channels: [lamp("porch"), lamp("hall")] }],
    },
    {
      slug: "finch",
      name: "Finch",
      devices: [{ slug: "finch", name: "board", profile: "own", channels: [lamp("porch")] }],
    },
    { slug: "store", name: "Store", devices: [] },
  ],
  groups: [{ slug: "porches", name: "Porches", channels: ["wren/porch", "finch/porch"] }],
  scenes: [{ slug: "evening", name: "Evening", sets: [{ channel: "wren/hall", action: "on" }] }],
  interlocks: [{ name: "one porch", channels: ["wren/porch", "finch/porch"], meets: "refuse" }],
};

function refusal(edit: SiteEdit): string {
  try {
    withEdit(site, edit);
  } catch (error) {
    if (error instanceof RelayError) return error.code;
    throw error;
  }
  return "none";
}

/** What changed, as a person would count it. */
const changed = (edit: SiteEdit) =>
  compareSites(site, withEdit(site, edit)).map(({ what, name, change }) => `${change} ${what} ${name}`);

describe("an edit of a part", () => {
  it("renames a site, sets its time zone, and takes it back", () => {
    const named = withEdit(site, { edit: "site", fields: { name: "Row", timeZone: "Europe/London" } });
    expect(named).toMatchObject({ slug: "alder-row", name: "Row", timeZone: "Europe/London" });
    expect(withEdit(named, { edit: "site", fields: { timeZone: null } })).not.toHaveProperty("timeZone");
    expect(refusal({ edit: "site", fields: { slug: "other" } })).toBe("bad-request");
    expect(refusal({ edit: "site", fields: { rooms: [] } })).toBe("bad-request");
  });

  it("adds, renames and moves a room; its devices stay in it", () => {
    const add: SiteEdit = { edit: "put", part: "rooms", name: "loft", fields: { name: "Loft" } };
    expect(changed(add)).toEqual(["added room loft"]);
    const first = withEdit(site, {
      edit: "patch",
      part: "rooms",
      name: "finch",
      fields: { place: 1, name: "Finch cottage" },
    });
    expect(first.rooms.map(({ slug, name, devices }) => [slug, name, devices.length])).toEqual([
      ["finch", "Finch cottage", 1],
      ["wren", "Wren", 1],
      ["store", "Store", 0],
    ]);
    expect(refusal({ edit: "patch", part: "rooms", name: "wren", fields: { place: "first" } })).toBe("bad-request");
  });

  it("deletes only a room without devices", () => {
    expect(changed({ edit: "delete", part: "rooms", name: "store" })).toEqual(["removed room store"]);
    expect(refusal({ edit: "delete", part: "rooms", name: "wren" })).toBe("depended-on");
  });

  it("moves a device with all that it has, and deletes it out of all that names it", () => {
    const moved = withEdit(site, { edit: "patch", part: "devices", name: "wren", fields: { room: "store" } });
    expect(moved.rooms.map(({ slug, devices }) => [slug, devices.map((device) => device.slug)])).toEqual([
      ["wren", []],
      ["finch", ["finch"]],
      ["store", ["wren"]],
    ]);
    expect(moved.groups).toEqual(site.groups);
    expect(changed({ edit: "delete", part: "devices", name: "wren" })).toEqual(
      expect.arrayContaining([
        "removed device wren",
        "removed channel wren/porch",
        "changed group porches",
        "removed scene evening",
        "removed interlock one porch",
      ]),
    );
    expect(refusal({ edit: "patch", part: "devices", name: "wren", fields: { room: "attic" } })).toBe("bad-request");
    expect(refusal({ edit: "put", part: "devices", name: "new", fields: { name: "x", profile: "own" } })).toBe(
      "bad-request",
    );
  });

  it("changes one setting of a channel and leaves the others", () => {
    const fields = { delivery: { autoOffMs: 60_000 } };
    const next = withEdit(site, { edit: "patch", part: "channels", name: "wren/porch", fields });
    expect(next.rooms[0]?.devices[0]?.channels[0]).toEqual({ ...lamp("porch"), delivery: { autoOffMs: 60_000 } });
    expect(changed({ edit: "patch", part: "channels", name: "wren/porch", fields })).toEqual([
      "changed channel wren/porch",
    ]);
    const back = withEdit(next, {
      edit: "patch",
      part: "channels",
      name: "wren/porch",
      fields: { delivery: { autoOffMs: null } },
    });
    expect(back.rooms[0]?.devices[0]?.channels[0]).toMatchObject({ name: "Lamp porch", delivery: {} });
  });

  it("does not delete the only channel of a device", () => {
    expect(refusal({ edit: "delete", part: "channels", name: "finch/porch" })).toBe("bad-request");
    expect(changed({ edit: "delete", part: "channels", name: "wren/hall" })).toContain("removed channel wren/hall");
  });

  it("is refused for what is not there, and for a body that is called otherwise than its address", () => {
    for (const part of ["rooms", "devices", "channels", "groups", "scenes", "interlocks"] as const) {
      expect(refusal({ edit: "delete", part, name: "nobody/here" })).toBe("not-found");
      expect(refusal({ edit: "patch", part, name: "nobody/here", fields: { name: "x" } })).toBe("not-found");
    }
    expect(refusal({ edit: "put", part: "groups", name: "a", fields: { slug: "b" } })).toBe("bad-request");
  });

  it("put and then deleted leaves a group, a scene or an interlock as it was before", () => {
    const part = fc.constantFrom("groups", "scenes", "interlocks");
    fc.assert(
      fc.property(part, fc.stringMatching(/^new-[a-z]{1,8}$/), (list, name) => {
        const added = withEdit(site, { edit: "put", part: list, name, fields: { anything: 1 } });
        expect(added[list]).toHaveLength((site[list]?.length ?? 0) + 1);
        expect(withEdit(added, { edit: "delete", part: list, name })).toEqual(site);
      }),
    );
  });
});
