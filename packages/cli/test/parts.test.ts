/** Parts of a site from a shell: each change previewed, made, listed as a version, and undone. */
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { commandLine } from "./support/run.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
  await world.board("wren");
});
afterAll(() => world.stop());

const run = commandLine(() => world);

const described = async () => (await world.client.site(world.site)).site;

describe("a site, part by part", () => {
  it("gets a room, which is renamed, moved and deleted; a preview changes nothing", async () => {
    expect((await run("room", "add", world.site, "loft", "--name", "Loft", "--preview")).out).toContain("+ room loft");
    expect((await described()).rooms.map(({ slug }) => slug)).not.toContain("loft");
    expect((await run("room", "add", world.site, "loft", "--name", "Loft")).out).toMatch(
      /\+ room loft\n.*is in effect/s,
    );
    await run("room", "rename", world.site, "loft", "Upper loft");
    await run("room", "move", world.site, "loft", "1");
    expect((await described()).rooms[0]).toMatchObject({ slug: "loft", name: "Upper loft" });
    expect((await run("room", "delete", world.site, "loft")).code).toBe(0);
    const first = (await described()).rooms[0]?.slug ?? "";
    expect((await run("room", "delete", world.site, first)).err).toContain("is used by the device");
  });

  it("gets a group, a scene and an interlock, and is renamed", async () => {
    const [porch, hall] = ["wren/porch", "wren/hall"];
    await run("group", "add", world.site, "cottage", porch, hall, "--name", "Cottage");
    await run("scene", "add", world.site, "evening", `${porch}=on`, `${hall}=off`);
    await run("interlock", "add", world.site, "one lamp", porch, hall, "--gap", "500", "--meets", "switch-off");
    await run("site", "rename", world.site, "The Row");
    await run("site", "zone", world.site, "Europe/London");
    const site = await described();
    expect(site).toMatchObject({
      name: "The Row",
      timeZone: "Europe/London",
      scenes: [
        {
          slug: "evening",
          sets: [
            { channel: porch, action: "on" },
            { channel: hall, action: "off" },
          ],
        },
      ],
      interlocks: [{ name: "one lamp", gapMs: 500, meets: "switch-off", channels: [porch, hall] }],
    });
    expect(site.groups).toContainEqual({ slug: "cottage", name: "Cottage", channels: [porch, hall] });
    await run("interlock", "delete", world.site, "one lamp");
    await run("scene", "delete", world.site, "evening");
    expect((await run("group", "delete", world.site, "cottage")).out).toContain("- group cottage");
    expect((await run("scene", "add", world.site, "bad", "porch on")).err).toContain("is no setting");
    expect((await run("group", "delete", world.site, "nobody")).code).toBe(1);
  });

  it("captures what is on now, and says what it leaves out", async () => {
    await world.client.ask({ target: world.address("wren/porch"), action: "on" }, { waitS: 5 });
    const { out, code } = await run("scene", "capture", world.site, "as-now", "--name", "As now");
    expect(code).toBe(0);
    expect(out).toMatch(/not in the scene: .*its state is not known/);
    const scene = (await described()).scenes?.find(({ slug }) => slug === "as-now");
    expect(scene?.sets).toContainEqual({ channel: "wren/porch", action: "on" });
    expect((await run("scene", "capture", world.site, "x", "nowhere")).err).toContain("no channel and no room");
  });

  it("shows and changes a channel's settings, and goes back by undo", async () => {
    const channel = world.address("wren/porch");
    const before = await run("channel", "show", channel);
    const set = await run("channel", "set", channel, "name=Front lamp", "delivery.autoOffMs=60000");
    expect(set.out).toContain("~ channel wren/porch");
    expect((await run("channel", "show", channel)).out).toMatch(/name: Front lamp\n.*autoOffMs: 60000/s);
    const versions = await run("versions", "site", world.site);
    expect(versions.out).toMatch(/Version +Saved +By.*in effect/s);
    expect((await run("undo", "site", world.site, "--preview")).out).toMatch(
      /Saving version \d+ again would change:\n.*Front lamp/s,
    );
    expect((await run("undo", "site", world.site)).out).toMatch(
      /is as it was in version \d+\. That is version \d+ now\./,
    );
    expect(await run("channel", "show", channel)).toEqual(before);
    expect((await run("channel", "set", channel, "delivery.autoOffMs=soon")).err).toContain("must be a number");
    expect((await run("undo", "profile", "reporting")).err).toContain("has no earlier version");
  });
});
