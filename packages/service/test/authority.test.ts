/** Attacks on authority: each from what an attacker wants, with what a member, a key, an inlet or a neighbour has. */
import { type Client, createClient, type ProblemError } from "@bold-relay/api";
import type { InletDescription } from "@bold-relay/core";
import { freePort } from "@bold-relay/rig";
import { connectAsync } from "mqtt";
import { afterAll, beforeAll, describe, expect, inject, it } from "vitest";
import { newKey, saveKey, sha256 } from "../src/index.ts";
import { createNeighbours, type Neighbours, OTHER_SITE } from "./support/neighbours.ts";
import { brokerUrl } from "./support/servers.ts";
import { poll, refusal } from "./support/until.ts";

let near: Neighbours;
let owner: Client;
let engineer: Client;
let linePort: number;

beforeAll(async () => {
  linePort = await freePort();
  near = await createNeighbours({ BOLD_RELAY_MAY_LISTEN: `127.0.0.1:${linePort}`, BOLD_RELAY_MAY_CALL: "127.0.0.1:9" });
  owner = near.world.client;
  engineer = await near.client("engineer", near.own);
  await near.world.board("wren");
});
afterAll(() => near.stop());

const as = (key: string) => createClient({ baseUrl: near.world.service.url, key });
const inlet = (slug: string, more: Partial<InletDescription> = {}): InletDescription => ({
  slug,
  name: slug,
  kind: "hook",
  site: near.own,
  ...more,
});

describe("a key", () => {
  it("creates no keys, whatever its role, and ends with those that it created when it could", async () => {
    const parent = await owner.addKey({ name: "parent" });
    expect([
      await refusal(as(parent.key).addKey({ name: "child" })),
      await refusal(as(parent.key).addKey({ name: "parent" })),
      await refusal(as(parent.key).addKey({ name: "child", inlet: "hall-tablet" })),
    ]).toEqual(Array(3).fill("recent-sign-in-required"));
    const [child, grandchild] = [await owner.addKey({ name: "child" }), await owner.addKey({ name: "grandchild" })];
    const idOf = { child: child.id, grandchild: grandchild.id, parent: parent.id };
    await near.world.pool.query("update api_key set made_by = $2 where id = $1", [idOf.child, idOf.parent]);
    await near.world.pool.query("update api_key set made_by = $2 where id = $1", [idOf.grandchild, idOf.child]);
    await owner.revokeKey(parent.id);
    for (const { key } of [parent, child, grandchild]) expect(await refusal(as(key).session())).toBe("wrong-key");
  });

  it("expires after 90 days unless never is chosen", async () => {
    const days = (at: string | null) => at && Math.round((Date.parse(at) - Date.now()) / 86_400_000);
    expect(days((await owner.addKey({ name: "usual" })).expiresAt)).toBe(90);
    expect((await owner.addKey({ name: "lasting", expiresInDays: null })).expiresAt).toBeNull();
  });

  it("does not change the password of who it belongs to", async () => {
    expect(
      await refusal(
        as(near.world.key).changePassword({ password: "correct horse battery", next: "another one entirely" }),
      ),
    ).toBe("recent-sign-in-required");
  });
});

describe("an engineer of one site", () => {
  it("cannot pull an object of another site over, nor push one of theirs there", async () => {
    await owner.saveInlet(inlet("theirs", { site: OTHER_SITE }), 0);
    const to = { topic: `${OTHER_SITE}/told` };
    await owner.saveNotification({ slug: "theirs", name: "n", site: OTHER_SITE, on: { changes: true }, to }, 0);
    await owner.saveInlet(inlet("mine"), 0);
    const mineTo = { topic: `${near.own}/told` };
    await owner.saveNotification({ slug: "mine", name: "n", site: near.own, on: { changes: true }, to: mineTo }, 0);
    const on = { changes: true };
    expect([
      await refusal(engineer.saveInlet(inlet("theirs"), null)),
      await refusal(engineer.saveNotification({ slug: "theirs", name: "n", site: near.own, on, to: mineTo }, null)),
      await refusal(engineer.saveInlet(inlet("mine", { site: OTHER_SITE }), null)),
      await refusal(engineer.saveInlet(inlet("mine", { site: null }), null)),
      await refusal(engineer.saveNotification({ slug: "mine", name: "n", site: OTHER_SITE, on, to }, null)),
      await refusal(engineer.saveNotification({ slug: "mine", name: "n", site: null, on, to: mineTo }, null)),
    ]).toEqual(["exists-already", "exists-already", ...Array(4).fill("not-permitted")]);
    const inlets = await owner.inlets();
    expect(inlets.find(({ slug }) => slug === "theirs")?.site).toBe(OTHER_SITE);
    expect(
      (await owner.notifications()).find(({ notification }) => notification.slug === "theirs")?.notification.site,
    ).toBe(OTHER_SITE);
  });

  it("learns of no name of another site by asking for its log", async () => {
    const told = async (channel: string) => {
      const error = (await engineer.log({ channel }).catch((cause: unknown) => cause)) as ProblemError;
      return error.problem.detail.replaceAll(channel, "X");
    };
    expect(await told(`${OTHER_SITE}/plover/heat`)).toBe(await told(`${OTHER_SITE}/plover/no-such`));
    expect(await told("heating, plover")).toBe(await told("no such, plover"));
  });

  it("cannot win by being quick: what moved away between the look and the change is not theirs", async () => {
    await owner.saveInlet(inlet("moving"), 0);
    // Moved by another instance, which this one has not heard of.
    await near.world.pool.query(
      "update inlet set site_id = (select id from site where slug = $1) where slug = 'moving'",
      [OTHER_SITE],
    );
    expect(await refusal(engineer.saveInlet(inlet("moving", { name: "grabbed" }), null))).toBe("exists-already");
    expect(await refusal(engineer.makeSecret("moving"))).toBe("not-found");
    expect(await refusal(engineer.removeInlet("moving"))).toBe("not-found");
  });

  it("publishes by hand on topics of their site only, and on none of the broker's or the service's", async () => {
    await owner.saveInlet(
      inlet("next-door", {
        kind: "topic",
        site: OTHER_SITE,
        routes: [{ when: { topic: "shared/+" }, do: { phrase: "heat in plover on" } }],
      }),
      0,
    );
    const publish = (topic: string) => refusal(engineer.publish({ topic, payload: "x" }));
    expect(await publish(`${near.own}/spare`)).toBe("taken");
    for (const topic of [`${OTHER_SITE}/plover/heat/do`, "shared/1", "nobody/knows", `${near.own}/marker`])
      expect([topic, await publish(topic)]).toEqual([topic, "not-permitted"]);
    for (const topic of [
      "$SYS/x",
      "$CONTROL/dynamic-security/v1",
      `${near.own}/+`,
      `${near.own}/#`,
      `${near.own}/a\u0007`,
    ])
      expect([topic, await publish(topic)]).toEqual([topic, "bad-request"]);
  });

  it("cannot make an inlet that listens to another site, to any site, or to another inlet", async () => {
    const listening = (topic: string) =>
      refusal(
        engineer.saveInlet(
          inlet("ear", { kind: "topic", routes: [{ when: { topic }, do: { phrase: "porch lantern in wren on" } }] }),
          null,
        ),
      );
    for (const topic of [`${OTHER_SITE}/+/+/is`, "+/+/+/is", "+/#", "shared/1", `${OTHER_SITE}/told`])
      expect([topic, await listening(topic)]).toEqual([topic, "inlet-wrong"]);
    expect(await listening("loose/buttons/+")).toBe("taken");
  });

  it("cannot have notifications told on a topic that somebody acts on", async () => {
    const telling = (topic: string) =>
      refusal(
        engineer.saveNotification(
          { slug: "loud", name: "n", site: near.own, on: { changes: true }, to: { topic } },
          null,
        ),
      );
    for (const topic of [`${near.own}/wren/porch/do`, `${near.own}/wren/porch/is`, `${OTHER_SITE}/x`, "shared/9"])
      expect([topic, await telling(topic)]).toEqual([topic, "bad-request"]);
  });

  it("sees on the wire nothing of a neighbour that writes below their name", async () => {
    const events: string[] = [];
    const stop = new AbortController();
    const over = engineer
      .wire(
        { filter: `${near.own}/#`, all: true },
        (event) => event.name === "message" && events.push(event.data.topic),
        stop.signal,
      )
      .catch(() => {});
    await owner.saveNotification(
      { slug: "guest", name: "n", site: null, on: { alerts: true }, to: { topic: `${near.own}/for-the-team` } },
      0,
    );
    await poll(
      async () => {
        await owner.publish({ topic: `${near.own}/for-the-team`, payload: "secret" });
        await owner.publish({ topic: `${near.own}/marker-of-the-end`, payload: "x" });
        return events;
      },
      (seen) => seen.includes(`${near.own}/marker-of-the-end`),
    );
    expect(events).not.toContain(`${near.own}/for-the-team`);
    stop.abort();
    await over;
  });

  it("opens a line only where the configuration lets them, and dials nowhere else by a test request", async () => {
    const elsewhere = await freePort();
    await engineer.saveInlet(inlet("squatter", { kind: "line", settings: { port: elsewhere } }), 0);
    const view = await poll(
      () => engineer.inlets(),
      (all) => all.some(({ slug }) => slug === "squatter"),
    );
    expect(view.find(({ slug }) => slug === "squatter")).toMatchObject({
      up: false,
      trouble: expect.stringContaining("BOLD_RELAY_MAY_LISTEN"),
    });
    const key = (await engineer.addKey({ name: "k", inlet: "squatter" })).key;
    expect(await refusal(engineer.tryInlet("squatter", { arrival: { text: "help" }, key }))).toBe("bad-request");
    await engineer.saveInlet(inlet("allowed", { kind: "line", settings: { port: linePort } }), 0);
    await poll(
      () => engineer.inlets(),
      (all) => all.find(({ slug }) => slug === "allowed")?.up === true,
    );
  });
});

describe("a lock-out", () => {
  it("binds whoever publishes by hand, and the one who holds it until they say that they know", async () => {
    const topic = `${near.own}/wren/path/do`;
    const { id } = await owner.lockOut({ target: "wren/path", reason: "hands in the panel" });
    expect(await refusal(engineer.publish({ topic, payload: "{}" }))).toBe("locked-out");
    expect(await refusal(engineer.publish({ topic, payload: "{}", confirm: true }))).toBe("locked-out");
    expect(await refusal(owner.publish({ topic, payload: "{}" }))).toBe("lockout-unconfirmed");
    expect(await refusal(owner.publish({ topic, payload: "{}", confirm: true }))).toBe("taken");
    await owner.release(id);
    const entry = (await owner.audit()).entries.find(
      ({ action, object }) => action === "published by hand" && object === topic,
    );
    expect(entry?.after).toEqual({ payload: "{}", qos: 1 });
  });

  it("is not inherited by a new member of the same name", async () => {
    const keyOf = async () => {
      const { rows } = await near.world.pool.query("select id from member where name = 'Pilar'");
      const key = newKey();
      await saveKey(near.world.pool, { name: "k", tokenSha256: sha256(key), memberId: rows[0].id });
      return key;
    };
    await owner.addMember({ name: "Pilar", role: "operator" });
    const { id } = await as(await keyOf()).lockOut({ target: "wren/hall" });
    await owner.removeMember("Pilar");
    await owner.addMember({ name: "Pilar", role: "operator" });
    expect(await refusal(as(await keyOf()).release(id))).toBe("not-permitted");
    await owner.release(id, { reason: "she has left" });
  });
});

describe("a name", () => {
  it("that a sender claims opens nobody's requests, and is shown as a claim", async () => {
    await owner.saveInlet(inlet("mask", { kind: "web", site: OTHER_SITE }), 0);
    const { key } = await owner.addKey({ name: "k", inlet: "mask" });
    const { password: _ } = await owner.addMember({ name: "Rosa", sites: [{ site: near.own, role: "user" }] });
    const { rows } = await near.world.pool.query("select id from member where name = 'Rosa'");
    const rosaKey = newKey();
    await saveKey(near.world.pool, { name: "k", tokenSha256: sha256(rosaKey), memberId: rows[0].id });
    const posed = await as(key).ask({ target: "plover/heat", action: "on", sender: "Rosa" }, { inlet: "mask" });
    expect(posed).toMatchObject({ requester: "inlet", asker: "Rosa", inlet: "mask" });
    expect(await refusal(as(rosaKey).trace(posed.id))).toBe("not-found");
    const own = await as(rosaKey).ask({ target: "wren/porch", action: "on" });
    expect(own).toMatchObject({ requester: "member", asker: "Rosa" });
    expect((await as(rosaKey).trace(own.id)).id).toBe(own.id);
  });

  it("of the service's own is no inlet's", async () => {
    for (const slug of ["board", "command-line", "power-up", "auto-off", "rule", "service"])
      expect([slug, await refusal(owner.saveInlet(inlet(slug), 0))]).toEqual([slug, "inlet-wrong"]);
  });

  it("of a deleted inlet is not used again, so nobody gets its callers or its history", async () => {
    await owner.saveInlet(inlet("gone", { site: OTHER_SITE }), 0);
    await owner.removeInlet("gone");
    expect(await refusal(engineer.saveInlet(inlet("gone"), 0))).toBe("identifier-retired");
    expect(await refusal(owner.saveInlet(inlet("gone"), null))).toBe("identifier-retired");
  });
});

/** What the page of a link is told when it shows its token. */
async function linkStatus({ path }: { path: string }): Promise<number> {
  const [address, token] = path.split("#");
  const headers = { authorization: `Bearer ${token}` };
  return (await fetch(`${near.world.service.url}${address}`, { headers })).status;
}

describe("an inlet that moves to another site", () => {
  it("leaves its keys, its secret, its links and its PIN behind", async () => {
    await owner.saveInlet(inlet("mover"), 0);
    await owner.makeSecret("mover");
    const { key } = await owner.addKey({ name: "k", inlet: "mover" });
    const link = await owner.makeLink("mover", { phrase: "porch lantern in wren on" });
    await owner.saveInlet(inlet("mover", { site: OTHER_SITE }), null);
    const { version } = await owner.inlet("mover");
    expect(version).toBe(2);
    const view = (await owner.inlets()).find(({ slug }) => slug === "mover");
    expect(view).toMatchObject({ signed: false, keys: 0, site: OTHER_SITE });
    expect(await owner.links("mover")).toEqual([]);
    const post = (path: string, more: Record<string, string> = {}) =>
      fetch(`${near.world.service.url}${path}`, {
        method: "POST",
        headers: { "content-type": "text/plain", ...more },
        body: "x",
      });
    expect((await post("/in/mover", { authorization: `Bearer ${key}` })).status).toBe(401);
    expect(await linkStatus(link)).toBe(401);

    const menu = { say: "Press 1.", keys: { "1": { say: "On.", phrase: "porch lantern in wren on" } } };
    await owner.saveInlet(inlet("phone", { kind: "keypad", settings: { menu, pin: "4711" } }), 0);
    const without = { ...menu, keys: { "1": { say: "On.", phrase: "heat in plover on" } } };
    const moved = inlet("phone", { kind: "keypad", site: OTHER_SITE, settings: { menu: without } });
    expect(await refusal(owner.saveInlet(moved, null))).toBe("bad-request");
  });
});

describe("a link", () => {
  it("is revoked by itself, and the others go on", async () => {
    await owner.saveInlet(inlet("doors"), 0);
    await owner.makeSecret("doors");
    const [one, other] = [
      await owner.makeLink("doors", { phrase: "porch lantern in wren on" }),
      await owner.makeLink("doors", { phrase: "porch lantern in wren off" }),
    ];
    await owner.revokeLink("doors", one.id);
    expect([await linkStatus(one), await linkStatus(other)]).toEqual([401, 200]);
    expect((await owner.links("doors")).map(({ id }) => id)).toEqual([other.id]);
  });
});

describe("a member who is removed", () => {
  it("leaves no link behind that acts", async () => {
    await owner.saveInlet(inlet("parting"), 0);
    await owner.makeSecret("parting");
    await owner.addMember({ name: "Nuno", role: "engineer" });
    const { rows } = await near.world.pool.query("select id from member where name = 'Nuno'");
    const key = newKey();
    await saveKey(near.world.pool, { name: "k", tokenSha256: sha256(key), memberId: rows[0].id });
    const link = await as(key).makeLink("parting", { phrase: "porch lantern in wren on" });
    expect(await linkStatus(link)).toBe(200);
    await owner.removeMember("Nuno");
    expect(await linkStatus(link)).toBe(401);
  });
});

describe("a publisher", () => {
  it("that names a topic of somebody else for the answer gets none there", async () => {
    await owner.saveInlet(
      inlet("asked", {
        kind: "topic",
        settings: { answer: true },
        routes: [{ when: { topic: "asked/+" }, do: { phrase: "porch lantern in wren on" } }],
      }),
      0,
    );
    await poll(
      () => owner.inlets(),
      (all) => all.find(({ slug }) => slug === "asked")?.up === true,
    );
    const access = { username: "tester", password: inject("brokerPassword"), protocolVersion: 5 } as const;
    const client = await connectAsync(brokerUrl(), access);
    for (const responseTopic of [
      `${OTHER_SITE}/plover/heat/do`,
      "shared/1",
      "asked/again",
      `${near.own}/wren/porch/is`,
    ]) {
      await client.publishAsync("asked/1", "x", { qos: 1, properties: { responseTopic } });
      const told = await poll(
        async () => {
          const { requests } = await owner.log({ limit: 5 });
          const mine = requests.find(({ inlet: slug }) => slug === "asked");
          return mine ? (await owner.trace(mine.id)).replies : [];
        },
        (replies) => replies.some(({ why }) => why?.includes(responseTopic) === true),
      );
      expect(told.every(({ taken }) => !taken)).toBe(true);
    }
    await client.endAsync();
  });
});

describe("the audit log", () => {
  it("has what was refused by right, once a minute, with who and from where", async () => {
    const reader = await near.client("reader", near.own);
    for (let turn = 0; turn < 5; turn += 1) expect(await refusal(reader.members())).toBe("not-permitted");
    const entries = await poll(
      async () =>
        (await owner.audit()).entries.filter(
          ({ action, object }) => action === "refused by right" && object === "GET /members",
        ),
      (found) => found.some(({ actor }) => actor.startsWith("reader")),
    );
    const mine = entries.filter(({ actor }) => actor === `reader of ${near.own}`);
    expect(mine).toHaveLength(1);
    expect(mine[0]).toMatchObject({ keyId: expect.any(Number), address: expect.stringContaining("127.0.0.1") });
  });
});
