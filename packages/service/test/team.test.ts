/** Who may do what: every role over every address, keys that end, members who are removed. */
import { type Client, createClient, type Problem, type ProblemError } from "@bold-relay/api";
import { mayDo, type Right, ROLES, type Role } from "@bold-relay/core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { permissions, type RouteName } from "../src/http/permissions.ts";
import { describePlover, ploverProfiles } from "./support/plover.ts";
import { refusal } from "./support/until.ts";
import { createWorld, INLET, OWNER, signedInAs, type World } from "./support/world.ts";

let world: World;
const keys = new Map<string, string>();

beforeAll(async () => {
  world = await createWorld();
  for (const role of ROLES) await addWithKey(role, { role });
  await addWithKey("elsewhere", {});
  await addWithKey("here", { sites: [{ site: world.site, role: "operator" }] });
});
afterAll(() => world.stop());

async function addWithKey(name: string, roles: Parameters<Client["setRoles"]>[1]): Promise<void> {
  const { password } = await world.client.addMember({ name, ...roles });
  const cookie = await signIn(name, password);
  const response = await fetch(`${world.service.url}/api/v1/keys`, {
    method: "POST",
    headers: { cookie, origin: world.service.url, "content-type": "application/json" },
    body: JSON.stringify({ name: "test" }),
  });
  // Only engineers make keys: for the others the owner's database does.
  if (response.ok) keys.set(name, ((await response.json()) as { key: string }).key);
  else keys.set(name, await keyFromDatabase(name));
}

async function keyFromDatabase(name: string): Promise<string> {
  const { newKey, saveKey, sha256 } = await import("../src/index.ts");
  const key = newKey();
  const { rows } = await world.pool.query("select id from member where name = $1", [name]);
  await saveKey(world.pool, { name: "test", tokenSha256: sha256(key), memberId: rows[0].id });
  return key;
}

async function signIn(name: string, password: string): Promise<string> {
  const response = await fetch(`${world.service.url}/api/v1/session`, {
    method: "POST",
    headers: { "content-type": "application/json", origin: world.service.url },
    body: JSON.stringify({ name, password }),
  });
  return (response.headers.get("set-cookie") ?? "").split(";")[0] ?? "";
}

function clientOf(name: string, also?: "with a sign-in"): Client {
  const baseUrl = world.service.url;
  const options = { baseUrl, key: keys.get(name) ?? "" };
  if (also === undefined) return createClient(options);
  return createClient({ ...options, signInAgain: () => signedInAs(world.pool, name, baseUrl) });
}

/** Calls an address with nothing in it: whoever may not call it is told so before anything else is looked at. */
async function isDenied(route: RouteName, key: string): Promise<boolean> {
  const [method = "GET", path = ""] = route.split(" ");
  const filled = path
    .replace("/channels/:site/:device/:channel", `/channels/${world.site}/wren/porch`)
    .replace(":form", "csv")
    .replace(/:\w+/, "nobody");
  const stop = new AbortController();
  const response = await fetch(`${world.service.url}${path === "/metrics" ? "" : "/api/v1"}${filled}`, {
    method,
    headers: { authorization: `Bearer ${key}` },
    signal: stop.signal,
  });
  const denied = response.status === 403 && ((await response.json()) as Problem).code === "not-permitted";
  stop.abort();
  return denied;
}

/** From a session only: `people.test.ts` tries it. */
const TAKES_PASSWORD: RouteName = "POST /members/:name/second-factor/off";

const guarded = (Object.entries(permissions) as [RouteName, Right | "anyone" | "member"][]).filter(
  (row): row is [RouteName, Right] => row[1] !== "anyone" && row[1] !== "member" && row[0] !== TAKES_PASSWORD,
);

describe("the table of permissions", () => {
  for (const role of ROLES) {
    it(`lets a ${role} do what the table says, and nothing else`, async () => {
      for (const [route, right] of guarded) {
        const denied = await isDenied(route, keys.get(role) ?? "");
        expect([route, denied]).toEqual([route, !mayDo(role as Role, right)]);
      }
    });
  }

  it("lets somebody without a role do nothing", async () => {
    for (const [route] of guarded)
      expect([route, await isDenied(route, keys.get("elsewhere") ?? "")]).toEqual([route, true]);
  });
});

describe("a role at one site", () => {
  it("sees, asks and holds there, and learns nothing of others", async () => {
    const { saveSite, saveProfile } = await import("../src/index.ts");
    for (const profile of ploverProfiles) await saveProfile(world.pool, profile, "the test");
    await saveSite(world.pool, describePlover("other-site"), "the test");
    await world.restart();
    const [mine, all] = await Promise.all([clientOf("here").board(), clientOf("owner").board()]);
    expect([mine.sites.map((site) => site.slug), all.sites.length]).toEqual([[world.site], 2]);
    const theirs = await world.client.ask({ target: "other-site/plover/heat", action: "on" });
    expect(await refusal(clientOf("here").ask({ target: "other-site/plover/heat", action: "on" }))).toBe(
      "unknown-channel",
    );
    expect(await refusal(clientOf("here").lockOut({ target: "other-site/plover" }))).toBe("unknown-channel");
    expect(await refusal(clientOf("here").trace(theirs.id))).toBe("not-found");
    expect(await refusal(clientOf("here").history("other-site/plover/heat", { zone: "UTC" }))).toBe("not-found");
    const mineAsked = await clientOf("here").ask({ target: "wren/porch", action: "on" });
    const seen = (await clientOf("here").log()).requests;
    expect(seen.map((one) => one.id)).toContain(mineAsked.id);
    expect(seen.map((one) => one.id)).not.toContain(theirs.id);
    expect((await clientOf("here").status()).counts.sites).toBe(1);
  });
});

describe("what was refused", () => {
  /** The id under which a refusal was journaled. */
  async function refusedAs(asked: Promise<unknown>): Promise<string> {
    const error = await asked.catch((cause: unknown) => cause);
    return String((error as ProblemError).problem.request);
  }

  it("belongs to the site of what it named, or of its inlet, and is seen by who looks after those", async () => {
    const before = (await clientOf("here").status()).lastDay;
    const atInlet = await fetch(`${world.service.url}/in/${INLET}`, {
      method: "POST",
      headers: { authorization: `Bearer ${world.inletKey}`, "content-type": "application/json" },
      body: JSON.stringify({ target: "porch lantrn", action: "on" }),
    });
    const owner = clientOf("owner");
    const ours = [
      ((await atInlet.json()) as { request: string }).request,
      await refusedAs(owner.ask({ target: "wren/porch", action: "sing" })),
    ];
    const others = [
      await refusedAs(owner.ask({ target: "other-site/plover/heat", action: "sing" })),
      await refusedAs(owner.ask({ target: "no such lamp", action: "on" })),
    ];
    const seen = (await clientOf("here").log({ result: "refused" })).requests.map(({ id }) => id);
    expect([ours.map((id) => seen.includes(id)), others.map((id) => seen.includes(id))]).toEqual([
      [true, true],
      [false, false],
    ]);
    for (const id of ours) expect((await clientOf("here").trace(id)).id).toBe(id);
    for (const id of others) expect(await refusal(clientOf("here").trace(id))).toBe("not-found");
    const { requests, refused } = (await clientOf("here").status()).lastDay;
    expect([requests - before.requests, refused - before.refused]).toEqual([2, 2]);
    const statistics = await clientOf("here").statistics({ days: 1 });
    expect(statistics.all.refused + statistics.all.notUnderstood).toBe(refused);
    expect(statistics.sites.map(({ key }) => key)).toEqual([world.site]);
    const { all, sites } = await owner.statistics({ days: 1 });
    expect(all.notUnderstood).toBeGreaterThan(sites.reduce((sum, { notUnderstood }) => sum + notUnderstood, 0));
  });
});

describe("a lock-out", () => {
  it("of somebody else is released by an owner with a reason, and by no operator", async () => {
    const hold = await clientOf("operator").lockOut({ target: "wren/path" });
    expect(await refusal(clientOf("here").release(hold.id, { reason: "mine now" }))).toBe("not-permitted");
    await clientOf("owner").release(hold.id, { reason: "gone home" });
  });
});

describe("keys", () => {
  it("may do less than their holder, expire, and are rotated with an overlap", async () => {
    const owner = world.client;
    const weak = createClient({
      baseUrl: world.service.url,
      key: (await owner.addKey({ name: "wall", most: "user" })).key,
    });
    expect((await weak.session()).role).toBe("user");
    expect(await refusal(weak.lockOut({ target: "wren/path" }))).toBe("not-permitted");

    const before = createClient({ baseUrl: world.service.url, key: (await owner.addKey({ name: "turned" })).key });
    const next = await owner.addKey({ name: "turned", overlapHours: 1 });
    const after = createClient({ baseUrl: world.service.url, key: next.key });
    expect([await refusal(before.session()), await refusal(after.session())]).toEqual(["taken", "taken"]);
    await owner.addKey({ name: "turned" });
    expect([await refusal(before.session()), await refusal(after.session())]).toEqual(["wrong-key", "wrong-key"]);

    const short = await owner.addKey({ name: "short", expiresInDays: 1 });
    await world.pool.query("update api_key set expires_at = now() where name = 'short'");
    expect(await refusal(createClient({ baseUrl: world.service.url, key: short.key }).session())).toBe("wrong-key");
  });

  it("of an inlet end at once when they are revoked, also for calls under way", async () => {
    const made = await clientOf("engineer", "with a sign-in").addKey({ name: "second", inlet: "hall-tablet" });
    const tablet = createClient({ baseUrl: world.service.url, key: made.key });
    expect(await refusal(tablet.ask({ target: "wren/porch", action: "on" }, { inlet: "hall-tablet" }))).toBe("taken");
    const { id } = (await clientOf("engineer").keys()).find((key) => key.name === "second") ?? { id: 0 };
    await clientOf("engineer").revokeKey(id);
    expect(await refusal(tablet.ask({ target: "wren/porch", action: "on" }, { inlet: "hall-tablet" }))).toBe(
      "wrong-key",
    );
  });
});

describe("members", () => {
  it("who are removed lose sessions, keys and live connections at once", async () => {
    const { password } = await world.client.addMember({ name: "Pilar", role: "operator" });
    const cookie = await signIn("Pilar", password);
    const live = await fetch(`${world.service.url}/api/v1/live`, { headers: { cookie } });
    await world.client.removeMember("Pilar");
    const ended = live.text();
    expect(await ended).toContain("event: hello");
    const board = await fetch(`${world.service.url}/api/v1/board`, { headers: { cookie } });
    expect(board.status).toBe(401);
  });

  it("can change their own password, which ends their other sessions", async () => {
    const { password } = await world.client.addMember({ name: "Bruno", role: "user" });
    const [first, second] = [await signIn("Bruno", password), await signIn("Bruno", password)];
    const headers = { "content-type": "application/json", origin: world.service.url, cookie: first };
    const change = (body: object) =>
      fetch(`${world.service.url}/api/v1/session/password`, { method: "POST", headers, body: JSON.stringify(body) });
    expect((await change({ password: "wrong", next: "a longer one now" })).status).toBe(403);
    expect((await change({ password, next: "a longer one now" })).status).toBe(204);
    const sees = async (cookie: string) =>
      (await fetch(`${world.service.url}/api/v1/board`, { headers: { cookie } })).status;
    expect([await sees(first), await sees(second)]).toEqual([200, 401]);
    expect(await signIn("Bruno", "a longer one now")).not.toBe("");
  });

  it("never leave the team without an owner, and are not added twice", async () => {
    expect(await refusal(world.client.addMember({ name: OWNER.name.toUpperCase(), role: "user" }))).toBe(
      "exists-already",
    );
    await world.client.setRoles("owner", { role: "user" });
    expect(await refusal(world.client.setRoles(OWNER.name, {}))).toBe("last-owner");
    expect(await refusal(world.client.removeMember(OWNER.name))).toBe("last-owner");
    expect(await refusal(world.client.setRoles("owner", { sites: [{ site: "nowhere", role: "user" }] }))).toBe(
      "bad-request",
    );
    expect((await world.client.members()).find((one) => one.name === "owner")?.role).toBe("user");
  });

  it("leave a trace in the audit, with before and after", async () => {
    const { entries } = await world.client.audit();
    const changed = entries.find((one) => one.action === "roles changed");
    expect(changed).toMatchObject({
      actor: OWNER.name,
      object: "owner",
      before: { team: "owner" },
      after: { team: "user" },
    });
    expect(JSON.stringify(entries)).not.toContain("brk_");
  });
});
