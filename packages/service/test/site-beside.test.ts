/** A site is checked against what lies beside it: topics of other sites' devices, inlets of other sites and of the whole team. */
import type { Finding, Profile, SiteDescription } from "@bold-relay/core";
import { afterAll, beforeAll, expect, it } from "vitest";
import { createWorld, type World } from "./support/world.ts";

/** Its devices share one root, whatever their site. */
const ROOTED: Profile = {
  slug: "rooted",
  name: "Topics below a root of its own",
  codec: "word",
  topics: { do: "boards/{device}/{channel}/set", done: null, is: null, here: null },
  delivery: { targetStage: "published" },
};
const SITED: Profile = { ...ROOTED, slug: "sited", topics: { ...ROOTED.topics, do: "{site}/{device}/{channel}/set" } };

let world: World;

beforeAll(async () => {
  world = await createWorld();
  await world.client.saveProfile(ROOTED, 0);
  await world.client.saveProfile(SITED, 0);
  await world.client.saveSite(site("first-barn", "rooted", "pump"), 0);
});
afterAll(() => world.stop());

function site(slug: string, profile: string, device: string, name = "Pump"): SiteDescription {
  const channels = [{ slug: "relay", name, kind: "relay" as const }];
  return {
    slug,
    name: slug,
    rooms: [{ slug: "yard", name: "Yard", devices: [{ slug: device, name: device, profile, channels }] }],
  };
}

async function findings(described: SiteDescription): Promise<Finding[]> {
  return (await world.client.checkSite(described)).findings as Finding[];
}

const clash = (topic: string, owner: string) =>
  expect.objectContaining({ level: "wrong", text: `uses the topic ${topic}, which belongs to ${owner}.` });

it("a topic of a device whose topics do not begin with its site is found from another site", async () => {
  expect(await findings(site("second-barn", "rooted", "pump"))).toContainEqual(
    clash("boards/pump/relay/set", "first-barn/pump"),
  );
  expect(await findings(site("second-barn", "rooted", "fan"))).toEqual([]);
});

it("topics of a device's own are found, by whichever of the two sites is saved last", async () => {
  const odd = site("odd-barn", "sited", "fan");
  const [room] = odd.rooms;
  const own = { do: "first-barn/fan/relay/set", done: null, is: null, here: null };
  const device = { ...room?.devices[0], topics: own } as NonNullable<typeof room>["devices"][number];
  const described = { ...odd, rooms: [{ slug: "yard", name: "Yard", devices: [device] }] };
  await world.client.saveSite(described, 0);
  expect(await findings(site("first-barn", "sited", "fan"))).toContainEqual(clash(own.do, "odd-barn/fan"));
  await world.client.saveSite(site("first-barn", "sited", "pump"), null);
  expect(await findings({ ...described, slug: "last-barn" })).toContainEqual(clash(own.do, "odd-barn/fan"));
});

it("an identifier that another site's topics begin with is found", async () => {
  const described = site("boards", "sited", "lift");
  await world.client.saveSite(site("third-barn", "rooted", "lift"), 0);
  expect(await findings(described)).toContainEqual(clash("boards/lift/relay/set", "third-barn/lift"));
});

it("an inlet of the whole team is told of when a change makes its name ambiguous, or leaves it without", async () => {
  await world.client.saveSite(site("team-barn", "sited", "winch", "Hay winch"), 0);
  const routes = [{ when: { words: "up" }, do: { target: "hay winch", action: "on" } }];
  await world.client.saveInlet({ slug: "barn-words", name: "Barn words", kind: "chat", site: null, routes }, 0);
  const at = "inlets/barn-words/routes[0].do.target";
  expect(await findings(site("other-barn", "sited", "hoist", "Hay winch"))).toContainEqual({
    level: "doubt",
    at,
    text: "Several are called “hay winch”: team-barn/winch/relay, other-barn/hoist/relay.",
  });
  expect(await findings(site("other-barn", "sited", "hoist", "Hay hoist"))).toEqual([]);
  expect(await findings(site("team-barn", "sited", "winch", "Straw winch"))).toContainEqual(
    expect.objectContaining({
      level: "doubt",
      at,
      text: expect.stringContaining("Nothing here is called “hay winch”"),
    }),
  );
});

it("an inlet of another site is told of when a device would write commands where it listens", async () => {
  const routes = [{ when: { topic: "boards/silo/{lamp}/set" }, do: { target: "winch/relay", action: "{payload}" } }];
  await world.client.saveInlet({ slug: "silo-keys", name: "Silo keys", kind: "topic", site: "team-barn", routes }, 0);
  expect(await findings(site("silo-barn", "rooted", "silo"))).toContainEqual(
    expect.objectContaining({ level: "doubt", at: "inlets/silo-keys/routes[0].when.topic" }),
  );
});
