/** Sites and devices changed while the service runs: checked first, taken on at once, nothing half-applied. */
import type { DeviceDescription, Profile, SiteDescription } from "@bold-relay/core";
import { withDevice, withoutDevice } from "@bold-relay/core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { channelNow, poll, refusal, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  // Longer than the whole file: only what it is told shows an instance that it has lost the lanes.
  world = await createWorld({ leaseMs: 60_000 });
});
afterAll(() => world.stop());

const read = () => world.client.site(world.site);

function board(slug: string, more: Partial<DeviceDescription> = {}): DeviceDescription {
  const channels = [
    { slug: "porch", name: "Porch lantern", kind: "light" },
    { slug: "hall", name: "Hall light", kind: "light" },
    { slug: "path", name: "Path lights", kind: "relay" },
  ] as const;
  return { slug, name: `board in ${slug}`, profile: "reporting", channels, ...more };
}

async function add(device: DeviceDescription, room = { slug: "annex", name: "Annex" }) {
  const { site, version } = await read();
  return world.client.saveSite(withDevice(site, room, device), version);
}

describe("a site that runs", () => {
  it("comes back as it was described", async () => {
    const { site, version } = await read();
    expect([site.slug, version, site.rooms.map((room) => room.slug)]).toEqual([
      world.site,
      1,
      ["wren", "finch", "dunlin"],
    ]);
    const plan = await world.client.checkSite(site);
    expect(plan).toEqual({ version: 1, changes: [], findings: [], reach: [] });
  });

  it("takes on a device without a restart, hears what it says already, and switches it", async () => {
    const plover = await world.board("plover", { device: "plover", channels: ["porch", "hall", "path"] });
    const plan = await add(board("plover"));
    expect(plan.version).toBe(2);
    expect(plan.changes.map(({ what, name, change }) => `${change} ${what} ${name}`)).toContain(
      "added channel plover/porch",
    );
    // What the board said lay retained at the broker.
    await untilChannel(world.client, world.address("plover/porch"), (one) => one.observed !== null);
    expect(await world.ask("plover/porch", "on")).toMatchObject({ outcome: "delivered" });
    expect(plover.state.contacts.porch).toBe("on");
    const devices = await world.client.devices();
    expect(devices.find(({ address }) => address === world.address("plover"))).toMatchObject({ presence: "online" });
  });

  it("keeps a channel's history when its board is replaced by another make", async () => {
    const before = await channelNow(world.client, world.address("plover/porch"));
    const { site, version } = await read();
    const renamed = { ...board("plover"), name: "new board", channels: board("plover").channels.slice(0, 2) };
    await world.client.saveSite(withDevice(site, { slug: "annex", name: "Annex" }, renamed), version);
    const after = await channelNow(world.client, world.address("plover/porch"));
    expect(after).toMatchObject({ device: { name: "new board" }, lastCommand: { id: before?.lastCommand?.id } });
    expect(await channelNow(world.client, world.address("plover/path"))).toBeUndefined();
    expect(await refusal(world.ask("plover/path", "on"))).toBe("unknown-channel");
  });

  it("lets nobody pull the ground from under what is open", async () => {
    const finch = await world.board("finch");
    await finch.setFault("silent");
    const open = await world.ask("finch/hall", "on", 0);
    const { site, version } = await read();
    expect(await refusal(world.client.saveSite(withoutDevice(site, "finch"), version))).toBe("in-use");
    expect((await read()).version).toBe(version);
    // What does not touch it goes on: the name of the channel changes under the open command.
    const named = JSON.parse(JSON.stringify(site).replaceAll("Hall light", "Hall lamp")) as SiteDescription;
    await world.client.saveSite(named, version);
    await finch.setFault("none");
    const ended = await poll(
      () => world.client.request(open.id),
      ({ outcome }) => outcome !== "open",
    );
    expect(ended).toMatchObject({ outcome: "delivered", commands: [{ channelName: "Hall lamp" }] });
  });

  it("notifications two people who edit it at once", async () => {
    const { site, version } = await read();
    const mine = world.client.saveSite({ ...site, name: "Alder Row, mine" }, version);
    const theirs = world.client.saveSite({ ...site, name: "Alder Row, theirs" }, version);
    const results = (await Promise.all([refusal(mine), refusal(theirs)])).sort();
    expect(results).toEqual(["changed-meanwhile", "taken"]);
    const { rows } = await world.pool.query(
      "select actor, after from audit where action = 'site changed' order by id desc limit 1",
    );
    expect(rows[0]).toMatchObject({ actor: "Ines", after: { changes: [{ what: "site", change: "changed" }] } });
  });

  it("is made by whoever may: a new one, and never over one that is there", async () => {
    const fresh: SiteDescription = {
      slug: `${world.site}-b`,
      name: "Glasshouse",
      rooms: [{ slug: "house", name: "House", devices: [board("bench")] }],
    };
    expect((await world.client.saveSite(fresh, 0)).version).toBe(1);
    expect(await refusal(world.client.saveSite(fresh, 0))).toBe("changed-meanwhile");
    expect((await world.client.board()).sites.map(({ name }) => name)).toContain("Glasshouse");
  });
});

describe("a description with mistakes changes nothing, and names each", () => {
  const wrong = async (change: (site: SiteDescription) => SiteDescription) => {
    const { site, version } = await read();
    const { findings } = await world.client.checkSite(change(site));
    expect(await refusal(world.client.saveSite(change(site), version))).toBe(
      findings.some(({ level }) => level === "wrong") ? "site-wrong" : "taken",
    );
    return findings.map(({ at, text }) => `${at} ${text}`).join("\n");
  };
  const place = { slug: "annex", name: "Annex" };

  it.each([
    [
      "an unknown profile",
      (site: SiteDescription) => withDevice(site, place, board("x", { profile: "no-such" })),
      "devices/x names the profile “no-such”",
    ],
    [
      "a reading that nobody reports",
      (site: SiteDescription) =>
        withDevice(
          site,
          place,
          board("x", { profile: "answering", channels: [{ slug: "t", name: "T", kind: "sensor" }] }),
        ),
      "its profile reports nothing",
    ],
    [
      "the same number twice",
      (site: SiteDescription) =>
        withDevice(site, place, board("x", { channels: board("x").channels.map((one) => ({ ...one, index: 4 })) })),
      "has number 4 on the device, like porch",
    ],
    [
      "a scene that asks a light for a level",
      (site: SiteDescription) => ({
        ...site,
        scenes: [{ slug: "s", name: "S", sets: [{ channel: "wren/porch", action: "level", value: 3 }] }],
      }),
      "a light takes on, off, toggle, back",
    ],
    [
      "two channels of one name",
      (site: SiteDescription) =>
        withDevice(
          site,
          place,
          board("x", {
            channels: [
              { slug: "a", name: "Same", kind: "relay" },
              { slug: "b", name: "same ", kind: "relay" },
            ],
          }),
        ),
      "people cannot tell them apart",
    ],
  ])("%s", async (_about, change, text) => {
    expect(await wrong(change)).toContain(text);
  });

  it("a body without a version, with unknown fields, too deep or too large is refused", async () => {
    const { site } = await read();
    const put = (body: unknown, headers: Record<string, string> = {}) =>
      fetch(`${world.service.url}/api/v1/sites/${world.site}/description`, {
        method: "PUT",
        headers: { authorization: `Bearer ${world.key}`, "content-type": "application/json", ...headers },
        body: typeof body === "string" ? body : JSON.stringify(body),
      });
    expect((await put(site)).status).toBe(400);
    expect((await put({ ...site, more: 1 }, { "if-match": "*" })).status).toBe(400);
    expect((await put({ ...site, slug: "other" }, { "if-match": "*" })).status).toBe(400);
    expect((await put("[".repeat(100_000), { "if-match": "*" })).status).toBe(400);
    expect((await put(`{"slug":"${"x".repeat(11_000_000)}"}`, { "if-match": "*" })).status).toBe(413);
  });
});

describe("an old board with odd payloads", () => {
  const odd: Profile = {
    slug: "old-eight",
    name: "Old eight-way board",
    // In words: every output is told on one topic as "OUT,<number from 0>,ON", answers "+" or "-<code>" on another, and
    // shouts its whole state as JSON whenever something moves. Outputs are wired the wrong way round.
    codec: {
      form: "text",
      do: "OUT,{index},{value}",
      is: "STATE {index} {value}",
      words: { on: "ON", off: "OFF" },
      done: { ok: ["+"] },
      here: { up: "hello", down: "bye" },
    },
    indexFrom: 0,
    topics: { do: "old/{device}/cmd", done: "old/{device}/res", is: "old/{device}/tell", here: "old/{device}/lwt" },
    delivery: { ackWithinMs: 8_000, settleMs: 8_000, reports: "onChange" },
  };

  it("is added by data alone, and proven", async () => {
    await world.client.saveProfile(odd, null);
    const channels = [
      { slug: "left", name: "Left", kind: "relay", reversed: true },
      { slug: "right", name: "Right", kind: "relay", reversed: true },
    ] as const;
    const firmware = await world.listener();
    const outputs = new Map([
      ["0", "ON"],
      ["1", "ON"],
    ]);
    const heard: string[] = [];
    firmware.on("message", (_topic, payload) => {
      heard.push(payload.toString());
      const [, output = "", value = ""] = payload.toString().split(",");
      if (!outputs.has(output)) return void firmware.publish("old/eight/res", "-3");
      outputs.set(output, value);
      firmware.publish("old/eight/res", "+");
      firmware.publish("old/eight/tell", `STATE ${output} ${value}`);
    });
    await firmware.subscribeAsync("old/eight/cmd");
    await add({ slug: "eight", name: "old board", profile: "old-eight", channels });
    firmware.publish("old/eight/lwt", "hello", { retain: true });
    expect(await world.ask("eight/right", "on")).toMatchObject({ outcome: "delivered" });
    expect(heard).toEqual(["OUT,1,OFF"]);
    expect(outputs.get("1")).toBe("OFF");
    const right = await channelNow(world.client, world.address("eight/right"));
    expect(right).toMatchObject({ observed: { value: "on" }, agreement: "agreed" });
    const left = await channelNow(world.client, world.address("eight/left"));
    expect(left?.observed).toBeNull();
  });
});

describe("an instance that has lost the lanes without knowing", () => {
  it("changes nothing of the model and of lock-outs any more, and says so", async () => {
    const { site, version } = await read();
    // As another instance would take them.
    await world.pool.query(
      "update lease set epoch = epoch + 1, holder = 'another', address = 'http://127.0.0.1:1', until = now() + interval '1 hour'",
    );
    const told = await Promise.all([
      refusal(world.client.saveSite({ ...site, name: "Changed by nobody" }, version)),
      refusal(world.client.lockOut({ target: world.address("wren") })),
    ]);
    expect(told).toEqual(["service-busy", "service-busy"]);
    const { rows } = await world.pool.query(
      "select (select version from site where slug = $1) as version, (select count(*)::int from lockout) as held",
      [world.site],
    );
    expect(rows[0]).toEqual({ version, held: 0 });
  });
});

describe("a profile that is tried", () => {
  it("tells what it writes and reads, by its name or as it stands, and changes nothing", async () => {
    const before = await world.client.profiles();
    const device = { slug: "shed", channels: [{ slug: "lamp", name: "Lamp", kind: "light" }] } as const;
    const named = await world.client.tryProfile({ profile: "reporting", site: "row", device });
    expect(named.writes.map(({ action, topic }) => `${action} ${topic}`)).toEqual([
      "on row/shed/lamp/do",
      "off row/shed/lamp/do",
    ]);
    const profile = before.find((one) => one.profile.slug === "reporting")?.profile as Profile;
    const changed = await world.client.tryProfile({
      profile: { ...profile, slug: "mine", codec: { form: "text", words: { on: "AN", off: "AUS" } } },
      device,
      messages: [
        { topic: "site/shed/lamp/is", text: "AN" },
        { topic: "site/shed/lamp/is", hex: "4155 53", retained: true },
      ],
    });
    expect(changed.writes.map(({ payload }) => payload)).toEqual(["AN", "AUS"]);
    expect(changed.reads.map(({ means, proves }) => `${means}: ${proves}`)).toEqual([
      "on: confirmed, of a command to be on; contradicted, of any other",
      "off: nothing: it is retained, and may be of any age",
    ]);
    expect(await world.client.profiles()).toEqual(before);
  });

  it("is refused where it is none, with the place of the mistake", async () => {
    const device = { slug: "shed", channels: [{ slug: "lamp", name: "Lamp", kind: "light" }] } as const;
    expect(await refusal(world.client.tryProfile({ profile: "no-such", device }))).toBe("not-found");
    const codec = { form: "morse" } as never;
    const topics = { do: "a/{channel}", done: null, is: null, here: null };
    const profile = { slug: "x", name: "X", codec, topics, delivery: {} };
    expect(await refusal(world.client.tryProfile({ profile, device }))).toBe("bad-request");
  });
});
