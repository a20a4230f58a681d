/** Parts of a site through the interface: one changes at a time, previewed, versioned, undone. */
import { type Problem, ProblemError, restoreVersion, versionBefore } from "@bold-relay/api";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
});
afterAll(() => world.stop());

async function problemOf(work: Promise<unknown>): Promise<Problem> {
  try {
    await work;
  } catch (error) {
    if (error instanceof ProblemError) return error.problem;
    throw error;
  }
  throw new Error("It was not refused.");
}

const group = (channels: readonly string[], name = "Porches") =>
  ({ edit: "put", part: "groups", name: "porch-lamps", fields: { name, channels } }) as const;

describe("a part of a site", () => {
  it("is previewed without a change, then changed, and acts at once", async () => {
    const { version, site } = await world.client.site(world.site);
    const channels = [`${site.rooms[0]?.devices[0]?.slug}/porch`];
    const preview = await world.client.changeSite(world.site, group(channels), version, true);
    expect(preview.changes).toEqual([{ what: "group", name: "porch-lamps", change: "added", fields: [] }]);
    expect((await world.client.site(world.site)).version).toBe(version);
    const plan = await world.client.changeSite(world.site, group(channels), version);
    expect(plan.version).toBe(version + 1);
    const asked = await world.client.rehearseAsk({ target: "porches", action: "on" });
    expect(asked.sends).toHaveLength(1);
  });

  it("of two who change it from the same version only the first does", async () => {
    const { version, site } = await world.client.site(world.site);
    const channels = [`${site.rooms[0]?.devices[0]?.slug}/porch`];
    await world.client.changeSite(world.site, group(channels, "First"), version);
    const second = await problemOf(world.client.changeSite(world.site, group(channels, "Second"), version));
    expect(second.code).toBe("changed-meanwhile");
    expect((await world.client.site(world.site)).site.groups?.[0]?.name).toBe("First");
  });

  it("that would be wrong is refused with the field, and nothing changes", async () => {
    const { version } = await world.client.site(world.site);
    const refused = await problemOf(world.client.changeSite(world.site, group(["nobody/here"]), version));
    expect(refused).toMatchObject({ code: "bad-request", detail: expect.stringContaining("nobody/here") });
    const controls = await problemOf(
      world.client.changeSite(world.site, { edit: "site", fields: { name: "Row\u0007" } }, version),
    );
    expect(controls).toMatchObject({ code: "bad-request", detail: expect.stringContaining("control character") });
    const zone = await problemOf(
      world.client.changeSite(world.site, { edit: "site", fields: { timeZone: "Europe/Nowhere" } }, version),
    );
    expect(zone.detail).toContain("no time zone");
    expect((await world.client.site(world.site)).version).toBe(version);
  });

  it("keeps a room without devices in its place over a restart", async () => {
    await world.client.changeSite(
      world.site,
      { edit: "put", part: "rooms", name: "loft", fields: { name: "Loft", place: 1 } },
      null,
    );
    await world.restart();
    const { site } = await world.client.site(world.site);
    expect(site.rooms[0]).toEqual({ slug: "loft", name: "Loft", devices: [] });
    await world.client.changeSite(world.site, { edit: "delete", part: "rooms", name: "loft" }, null);
    expect((await world.client.site(world.site)).site.rooms.map(({ slug }) => slug)).not.toContain("loft");
  });

  it("that an inlet names is deleted with a warning that names the route", async () => {
    const routes = [{ when: { words: "all dark" }, do: { target: `${world.site}/porch-lamps`, action: "off" } }];
    await world.client.saveInlet({ slug: "hall-chat", name: "Hall chat", kind: "chat", site: world.site, routes }, 0);
    const remove = { edit: "delete", part: "groups", name: "porch-lamps" } as const;
    const { findings } = await world.client.changeSite(world.site, remove, null, true);
    expect(findings).toContainEqual(
      expect.objectContaining({ level: "doubt", at: "inlets/hall-chat/routes[0].do.target" }),
    );
    await world.client.removeInlet("hall-chat");
  });
});

describe("the time zone of a site", () => {
  it("is that of the times in its history, named where it is not the reader's", async () => {
    await world.board("wren");
    const channel = world.address("wren/porch");
    await world.client.ask({ target: channel, action: "on" }, { waitS: 5 });
    await world.client.changeSite(world.site, { edit: "site", fields: { timeZone: "Pacific/Auckland" } }, null);
    expect((await world.client.board()).sites[0]?.timeZone).toBe("Pacific/Auckland");
    expect((await world.client.history(channel, { zone: "Europe/London" })).answer).toContain("(Pacific/Auckland)");
    expect((await world.client.history(channel, { zone: "Pacific/Auckland" })).answer).not.toContain("(");
    expect((await world.client.trend(channel, 2)).zone).toBe("Pacific/Auckland");
    await world.client.changeSite(world.site, { edit: "site", fields: { timeZone: null } }, null);
    expect((await world.client.history(channel, { zone: "Europe/London" })).answer).not.toContain("(");
  });
});

describe("the versions of a description", () => {
  it("name who saved them, compare with what is in effect, and bring back what was", async () => {
    const { site } = await world.client.site(world.site);
    await world.client.changeSite(world.site, { edit: "site", fields: { name: "Changed" } }, null);
    const versions = await world.client.versions("site", world.site);
    expect(versions[0]).toMatchObject({ current: true, savedBy: expect.any(String) });
    const before = versionBefore(versions);
    const compared = await world.client.version("site", world.site, before?.version ?? 0);
    expect(compared.changes).toEqual([{ place: `site ${world.site}: name`, from: "Changed", to: site.name }]);
    await restoreVersion(world.client, "site", world.site, before?.version ?? 0);
    expect((await world.client.site(world.site)).site).toEqual(site);
    expect((await world.client.versions("site", world.site))[0]?.version).toBe((versions[0]?.version ?? 0) + 1);
  });

  it("bring back a site that was deleted, with everything in it", async () => {
    const { site } = await world.client.site(world.site);
    const spare = { ...site, slug: "spare-hall", name: "Spare hall" };
    await world.client.saveSite(spare, 0);
    await world.client.deleteSite("spare-hall", 1);
    const before = versionBefore(await world.client.versions("site", "spare-hall"));
    expect(before).toMatchObject({ version: 1, current: false });
    await restoreVersion(world.client, "site", "spare-hall", before?.version ?? 0);
    expect((await world.client.site("spare-hall")).site).toEqual(spare);
    await world.client.deleteSite("spare-hall", null);
  });

  it("bring back a notification that was deleted, as a newer version", async () => {
    const to = { topic: `${world.site}/told` };
    const one = { slug: "night-desk", name: "Night desk", site: world.site, on: { alerts: true }, to };
    await world.client.saveNotification(one, 0);
    await world.client.saveNotification({ ...one, name: "Day desk" }, 1);
    await world.client.removeNotification("night-desk", 2);
    const versions = await world.client.versions("notification", "night-desk");
    expect(versions.map(({ version, current }) => [version, current])).toEqual([
      [2, false],
      [1, false],
    ]);
    expect(
      await restoreVersion(world.client, "notification", "night-desk", versionBefore(versions)?.version ?? 0),
    ).toBe(3);
    const [found] = await world.client.notifications();
    expect(found?.notification.name).toBe("Day desk");
  });

  it("of a profile are kept, and two editors do not overwrite each other", async () => {
    const found = (await world.client.profiles()).find(({ profile: { slug } }) => slug === "single-characters");
    if (!found) throw new Error("no profile");
    await world.client.saveProfile({ ...found.profile, name: "Letters" }, found.version);
    const refused = await problemOf(world.client.saveProfile({ ...found.profile, name: "Other" }, found.version));
    expect(refused.code).toBe("changed-meanwhile");
    await restoreVersion(world.client, "profile", "single-characters", found.version);
    const now = (await world.client.profiles()).find(({ profile: { slug } }) => slug === "single-characters");
    expect(now?.profile).toEqual(found.profile);
  });

  it("never hold a PIN, nor its hash, that anybody could read", async () => {
    const menu = { say: "Press 1.", keys: { "1": { say: "On.", phrase: "porch on" } } };
    const settings = { pin: "4711", menu };
    await world.client.saveInlet({ slug: "keypad", name: "Keypad", kind: "keypad", site: world.site, settings }, 0);
    const { description } = await world.client.version("inlet", "keypad", 1);
    expect(JSON.stringify(description)).not.toMatch(/4711|pinHash|argon2/);
    await restoreVersion(world.client, "inlet", "keypad", 1);
    const { rows } = await world.pool.query(
      "select body->'settings'->>'pinHash' as hash from inlet where slug = 'keypad'",
    );
    expect(rows[0].hash).toMatch(/^\$argon2id/);
  });

  it("are the newest 50", async () => {
    for (let at = 0; at < 55; at += 1)
      await world.client.changeSite(world.site, { edit: "site", fields: { name: `Name ${at}` } }, null);
    expect(await world.client.versions("site", world.site)).toHaveLength(50);
  });
});

describe("a description that is being written", () => {
  it("is told all its mistakes with their places, and nothing is saved", async () => {
    const { site, version } = await world.client.site(world.site);
    const [room] = site.rooms;
    const wrong = { ...site, timeZone: "Nowhere", rooms: [{ ...room, name: "", extra: 1 }, ...site.rooms.slice(1)] };
    const { findings } = await world.client.checkDescription("site", wrong);
    expect(findings.map(({ at }) => at).sort()).toEqual(["rooms[0].extra", "rooms[0].name", "timeZone"]);
    expect((await world.client.site(world.site)).version).toBe(version);
    const renamed = await world.client.checkDescription("site", { ...site, name: "Renamed" });
    expect(renamed.changes).toEqual([{ place: `site ${world.site}: name`, from: site.name, to: "Renamed" }]);
  });

  it("of an inlet, a profile and a notification, too", async () => {
    const inlet = { slug: "draft", name: "Draft", kind: "chat", site: world.site, routes: [{ when: { words: "x" } }] };
    expect((await world.client.checkDescription("inlet", inlet)).findings[0]?.at).toBe("routes[0].do");
    const lost = { ...inlet, routes: [{ when: { words: "x" }, do: { target: "nobody", action: "on" } }] };
    expect((await world.client.checkDescription("inlet", lost)).findings[0]).toMatchObject({
      level: "wrong",
      at: "routes[0].do.target",
    });
    const [profile] = await world.client.profiles();
    expect((await world.client.checkDescription("profile", { ...profile?.profile, codec: 1 })).findings[0]?.at).toBe(
      "codec",
    );
    const told = { slug: "n", name: "N", site: world.site, on: { alerts: true }, to: { topic: "$SYS/told" } };
    expect((await world.client.checkDescription("notification", told)).findings[0]).toMatchObject({ at: "to.topic" });
  });
});

describe("the plan of a translator", () => {
  const reach = {
    by: "lines",
    host: "192.0.2.9",
    port: 4001,
    form: { form: "text", do: "{index}", is: "{index} {value}" },
  };
  const plan = (device: object) => ({
    broker: { url: "mqtt://127.0.0.1:1883" },
    devices: [{ site: world.site, reach, ...device }],
  });

  it("is held against the sites: its devices and channels must be there", async () => {
    const missing = await world.client.checkPlan(
      plan({ device: "cellar", channels: [{ slug: "pump", kind: "relay" }] }),
    );
    expect(missing.findings).toMatchObject([{ level: "wrong", at: "devices[0].device" }]);
    const other = await world.client.checkPlan(plan({ device: "wren", channels: [{ slug: "pump", kind: "relay" }] }));
    expect(other.findings.map(({ at }) => at)).toContain("devices[0].channels[0].slug");
    const kind = await world.client.checkPlan(plan({ device: "wren", channels: [{ slug: "porch", kind: "relay" }] }));
    expect(kind.findings.map(({ at }) => at)).toContain("devices[0].channels[0].kind");
  });

  it("with mistakes of form is told all of them, each at its place", async () => {
    const { findings } = await world.client.checkPlan({
      broker: { url: "http://x" },
      devices: [{ reach: { by: "smoke" } }],
    });
    expect(findings.map(({ at }) => at)).toEqual(
      expect.arrayContaining(["broker.url", "devices[0].site", "devices[0].channels"]),
    );
  });
});
