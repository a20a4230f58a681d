/** Attacks of an engineer on what a person holds: a lock-out and an interlock hold outputs, by whatever name they are reached. */
import { createClient } from "@bold-relay/api";
import type { SiteDescription } from "@bold-relay/core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { saveSite } from "../src/index.ts";
import { createNeighbours, type Neighbours, OTHER_SITE } from "./support/neighbours.ts";
import { refusal } from "./support/until.ts";

let near: Neighbours;
let engineerKey: string;
let written: string[];

beforeAll(async () => {
  near = await createNeighbours();
  engineerKey = await near.keyOf("engineer", near.own);
  await near.world.board("wren");
  await near.world.board("finch");
  const listener = await near.world.listener();
  written = [];
  listener.on("message", (topic) => written.push(topic));
  await listener.subscribeAsync("#");
});
afterAll(() => near.stop());

const path = (rest: string) => `/sites/${near.own}/${rest}`;
const porch = () => `${near.own}/wren/porch/do`;

function change(key: string, method: string, where: string, body?: unknown): Promise<Response> {
  const type = method === "PATCH" ? "application/merge-patch+json" : "application/json";
  const headers = { authorization: `Bearer ${key}`, "content-type": type, "if-match": "*" };
  const init = body === undefined ? { method, headers } : { method, headers, body: JSON.stringify(body) };
  return fetch(`${near.world.service.url}/api/v1${where}`, init);
}

/** What the service answers: its status and its code. */
async function attempt(method: string, where: string, body?: unknown): Promise<string> {
  const response = await change(engineerKey, method, where, body);
  const answer = response.status === 204 ? {} : ((await response.json()) as { code?: string });
  return `${response.status} ${answer.code ?? ""}`.trim();
}

async function locked<Result>(target: string, attack: () => Promise<Result>): Promise<Result> {
  const { id } = await near.world.client.lockOut({ target: near.world.address(target), reason: "hands inside" });
  try {
    return await attack();
  } finally {
    await near.world.client.release(id);
  }
}

describe("a lock-out holds the output", () => {
  it.each<[string, () => Promise<string>]>([
    [
      "a second channel of the same device with its literal topics",
      () =>
        attempt("PUT", path("channels/wren/twin"), {
          name: "Twin",
          kind: "light",
          topics: { do: porch(), is: `${near.own}/wren/porch/is` },
        }),
    ],
    [
      "a channel of another device",
      () => attempt("PUT", path("channels/finch/twin"), { name: "Twin", kind: "light", topics: { do: porch() } }),
    ],
    [
      "a new device whose topics are those of the device that is held",
      () =>
        attempt("PUT", path("devices/twin"), {
          name: "Twin",
          profile: "reporting",
          room: "wren",
          topics: { do: `${near.own}/wren/{channel}/do`, here: null },
          channels: [{ slug: "porch", name: "Twin of the lantern", kind: "light" }],
        }),
    ],
    ["its own topics moved away", () => attempt("PATCH", path("channels/wren/porch"), { topics: { do: "away/do" } })],
    ["its device's topics moved away", () => attempt("PATCH", path("devices/wren"), { topics: { here: "away/here" } })],
    ["another kind", () => attempt("PATCH", path("channels/wren/porch"), { kind: "relay" })],
    ["other words", () => attempt("PATCH", path("channels/wren/porch"), { reversed: true })],
    ["another profile", () => attempt("PATCH", path("devices/wren"), { profile: "answering" })],
    ["its channel deleted", () => attempt("DELETE", path("channels/wren/porch"))],
    ["its device deleted", () => attempt("DELETE", path("devices/wren"))],
    [
      "an interlock that switches it",
      () =>
        attempt("PUT", path("interlocks/both"), { channels: ["wren/porch", "wren/hall"], gapMs: 0, meets: "refuse" }),
    ],
  ])("against %s", async (_how, attack) => {
    const before = written.length;
    const answer = await locked("wren/porch", attack);
    expect(answer).toMatch(/^(409 in-use|422 site-wrong)$/);
    expect(written.slice(before).filter((topic) => topic === porch())).toEqual([]);
  });

  it("against whoever moves all numbers of its board by one channel before it", async () => {
    const numbered = {
      slug: "numbered",
      name: "Numbers in the payload",
      codec: { form: "text", do: "{index} {value}", is: "{index} {value}" },
      topics: { do: "{site}/{device}/do", done: null, is: "{site}/{device}/is", here: null },
      delivery: { targetStage: "published" },
    };
    expect(await change(near.world.key, "PUT", "/profiles/numbered", numbered).then(({ status }) => status)).toBe(200);
    const described = {
      name: "Strip",
      profile: "numbered",
      room: "wren",
      channels: [
        { slug: "pump", name: "Pump", kind: "relay" },
        { slug: "lamp", name: "Lamp", kind: "relay" },
      ],
    };
    expect(await attempt("PUT", path("devices/strip"), described)).toBe("200");
    const [pump, lamp] = described.channels;
    const moved = { ...described, channels: [lamp, pump] };
    expect(await locked("strip/pump", () => attempt("PUT", path("devices/strip"), moved))).toBe("409 in-use");
    expect(await locked("strip/pump", () => attempt("PATCH", "/profiles/numbered", { indexFrom: 0 }))).toMatch(
      /^40[39] /,
    );
    const first = { ...numbered, indexFrom: 0 };
    const byOwner = await locked("strip/pump", () => change(near.world.key, "PUT", "/profiles/numbered", first));
    expect(await byOwner.json()).toMatchObject({ code: "in-use" });
  });

  it("and lets what does not touch the output be changed", async () => {
    expect(await locked("wren/porch", () => attempt("PATCH", path("channels/wren/porch"), { name: "Lantern" }))).toBe(
      "200",
    );
    expect(await locked("wren/porch", () => attempt("PATCH", path("channels/wren/hall"), { kind: "relay" }))).toBe(
      "200",
    );
  });

  it("against a twin that was described before twins were refused", async () => {
    const twin: SiteDescription = {
      slug: "older",
      name: "Older",
      rooms: [
        {
          slug: "hall",
          name: "Hall",
          devices: [
            {
              slug: "box",
              name: "Box",
              profile: "reporting",
              channels: [{ slug: "twin", name: "Twin", kind: "light", topics: { do: porch() } }],
            },
          ],
        },
      ],
    };
    await saveSite(near.world.pool, twin, "the test");
    await near.world.restart();
    const before = written.length;
    const byHand = { topic: porch(), payload: `{"to":"on"}` };
    const engineer = await near.client("engineer", null);
    const refused = await locked("wren/porch", async () => [
      await refusal(near.world.client.ask({ target: "older/box/twin", action: "on" })),
      await refusal(engineer.publish(byHand)),
      await refusal(near.world.client.publish(byHand)),
    ]);
    expect(refused).toEqual(["locked-out", "locked-out", "lockout-unconfirmed"]);
    expect(written.slice(before).filter((topic) => topic === porch())).toEqual([]);
  });
});

describe("topics of others are refused", () => {
  const claim = (topics: object) =>
    change(engineerKey, "PUT", path("channels/finch/thief"), { name: "Thief", kind: "light", topics }).then(
      async (response) => ({ status: response.status, text: JSON.stringify(await response.json()) }),
    );

  it.each<[string, () => object]>([
    ["of a device of another site", () => ({ do: `${OTHER_SITE}/plover-board/porch/do` })],
    ["below the identifier of another site", () => ({ is: `${OTHER_SITE}/made-up` })],
    ["of the service's own marker", () => ({ is: `${near.own}/marker` })],
    ["by a level that differs", () => ({ do: `${near.own}/{value}` })],
  ])("%s", async (_whose, topics) => {
    const { status, text } = await claim(topics());
    expect(status).toBe(422);
    expect(text).not.toMatch(/belongs to (?:the device|the site|glasshouse)/);
  });

  it("of a notification and of an inlet of another site, without a name", async () => {
    const { client } = near.world;
    await client.saveNotification(
      { slug: "pager", name: "Pager", site: OTHER_SITE, on: { alerts: true }, to: { topic: "pager/out" } },
      0,
    );
    const routes = [{ name: "b", when: { topic: "secret-buttons/{n}" }, do: { ignore: true as const } }];
    await client.saveInlet(
      { slug: "their-buttons", name: "Buttons", kind: "topic" as const, site: OTHER_SITE, routes },
      0,
    );
    for (const topics of [
      { is: "pager/out" },
      { do: "pager/out" },
      { do: "secret-buttons/7" },
      { is: "secret-buttons/{channel}" },
    ]) {
      const { status, text } = await claim(topics);
      expect([JSON.stringify(topics), status]).toEqual([JSON.stringify(topics), 422]);
      expect(text).toContain("another site");
      expect(text).not.toMatch(/pager of|their-buttons|glasshouse/);
    }
  });

  it("and a site cannot be added whose topics others have", async () => {
    expect(await attempt("PATCH", path("channels/finch/path"), { topics: { is: "annex/reports" } })).toBe("200");
    const annex = { slug: "annex", name: "Annex", rooms: [] };
    const response = await change(near.world.key, "PUT", "/sites/annex/description", annex);
    expect(await response.json()).toMatchObject({ code: "site-wrong", detail: expect.stringContaining("annex/") });
  });

  it("two who save the same topic at the same time do not both get it", async () => {
    const other = createClient({ baseUrl: near.world.service.url, key: near.world.key });
    const notification = {
      slug: "bell",
      name: "Bell",
      site: near.own,
      on: { alerts: true },
      to: { topic: "bell/out" },
    };
    const answers = await Promise.all([
      attempt("PUT", path("channels/finch/bell"), { name: "Bell", kind: "light", topics: { is: "bell/out" } }),
      refusal(other.saveNotification(notification, 0)),
    ]);
    expect(answers.filter((answer) => answer === "200" || answer === "taken")).toHaveLength(1);
    const user = await near.client("user", near.own);
    expect(await refusal(user.ask({ target: near.world.address("wren/porch"), action: "on" }))).toBe("taken");
  });
});
