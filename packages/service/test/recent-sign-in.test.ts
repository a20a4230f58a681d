/**
 * What creates or restores people, roles, keys and rules takes a sign-in of the last 15 minutes. From the aims of whoever has an owner's
 * key, an old session, or sits at an open page.
 */
import { type Client, createClient, type ProblemError } from "@bold-relay/api";
import { recentSignInOf } from "@bold-relay/api/schema";
import { generateSync } from "otplib";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { RouteName } from "../src/http/permissions.ts";
import { createNeighbours, type Neighbours } from "./support/neighbours.ts";
import { operationTries, type Try } from "./support/operation-tries.ts";
import { refusal } from "./support/until.ts";

let near: Neighbours;
let owner: Client;
const tries = operationTries(() => near);

beforeAll(async () => {
  near = await createNeighbours();
  owner = near.world.client;
});
afterAll(() => near.stop());

const asKey = (key: string) => createClient({ baseUrl: near.world.service.url, key });
const codeOf = async (answer: Response) => ((await answer.json()) as { code: string }).code;
const age = (name: string, by: string) =>
  near.world.pool.query(
    `update session set created_at = now() - $2::interval where member_id = (select id from member where name = $1)`,
    [name, by],
  );

async function somebody(role: "owner" | "engineer" | "operator" = "owner") {
  const name = `Somebody ${crypto.randomUUID()}`;
  const { password } = await owner.addMember({ name, role });
  return { name, password };
}

/** Signs in by password. @param cookie of a session of before */
async function signIn(body: object, cookie = "", path = "/session") {
  const answer = await near.call({ cookie, origin: near.world.service.url }, "POST", path, body);
  const set = answer.headers.get("set-cookie")?.split(";")[0] ?? "";
  return { status: answer.status, headers: { cookie: set, origin: near.world.service.url }, body: await answer.json() };
}

const needing = ([tries.ofPlace, tries.ofTeam, tries.anywhere].flatMap(Object.entries) as [RouteName, Try][]).filter(
  ([name]) => recentSignInOf(name) !== null,
);

describe("a call that needs a recent sign-in", () => {
  it.each(needing)("%s: no key makes it, and no sign-in that is over 15 minutes old", async (name, make) => {
    const { path, body } = await make("own");
    const [method = ""] = name.split(" ");
    const withKey = await near.call(await near.keyOf("owner", null), method, path, body);
    expect([withKey.status, await codeOf(withKey)]).toEqual([403, "recent-sign-in-required"]);

    const session = await near.session("owner", null);
    await age("owner of the team", "16 minutes");
    const withOld = await near.call(session, method, path, body);
    expect([withOld.status, await codeOf(withOld)]).toEqual([403, "recent-sign-in-required"]);
    // A clock that was set back makes no sign-in recent.
    await age("owner of the team", "-10 minutes");
    const ahead = await near.call(session, method, path, body);
    expect([ahead.status, await codeOf(ahead)]).toEqual([403, "recent-sign-in-required"]);
    await age("owner of the team", "14 minutes");
    const recent = await near.call(session, method, path, body);
    expect(recent.status).toBeLessThan(300);
    await recent.body?.cancel();
  });

  it("is on record when it is tried with a key", async () => {
    expect(await refusal(asKey(near.world.key).addMember({ name: "Mole", role: "owner" }))).toBe(
      "recent-sign-in-required",
    );
    const { entries } = await owner.audit();
    expect(entries).toContainEqual(
      expect.objectContaining({ action: "recent sign-in required", object: "POST /members", actor: "Ines" }),
    );
    expect((await owner.members()).some(({ name }) => name === "Mole")).toBe(false);
  });

  it("says what to do", async () => {
    const error = (await asKey(near.world.key)
      .addKey({ name: "child" })
      .catch((cause: unknown) => cause)) as ProblemError;
    expect(error.problem.detail).toBe(
      "This needs your password, and your second factor if you have one, shown within the last 15 minutes. A key is not enough. Sign in again, then repeat the call.",
    );
  });
});

describe("signing in again", () => {
  it("makes the same page's calls good, and ends the session of before", async () => {
    const who = await somebody();
    const first = await signIn(who);
    expect(first.body).toMatchObject({ recent: true });
    await age(who.name, "1 hour");
    const add = (headers: Record<string, string>) => near.call(headers, "POST", "/keys", { name: "k" });
    expect(await codeOf(await add(first.headers))).toBe("recent-sign-in-required");
    const seen = (await (await near.call(first.headers, "GET", "/session")).json()) as object;
    expect(seen).toMatchObject({ recent: false });
    const second = await signIn(who, first.headers.cookie);
    expect((await add(second.headers)).status).toBe(201);
    expect((await add(first.headers)).status).toBe(401);
  });

  it("takes the second factor where there is one: the password is not enough, also where it is in the body", async () => {
    const who = await somebody();
    const { headers } = await signIn(who);
    const made = (await (await near.call(headers, "POST", "/account/app", { password: who.password })).json()) as {
      secret: string;
    };
    const code = generateSync({ secret: made.secret });
    expect((await near.call(headers, "PUT", "/account/app", { code })).status).toBe(200);
    await age(who.name, "20 minutes");
    const tried = [
      ["POST", "/account/app/off", { password: who.password }],
      ["POST", "/account/passkeys/options", { password: who.password }],
      ["POST", "/session/password", { password: who.password, next: "seven green lanterns sway" }],
      ["POST", "/members/Ines/second-factor/off", { password: who.password }],
      ["POST", "/members", { name: "Mole", role: "owner" }],
    ] as const;
    for (const [method, path, body] of tried)
      expect([path, await codeOf(await near.call(headers, method, path, body))]).toEqual([
        path,
        "recent-sign-in-required",
      ]);
    // The first step alone opens nothing, and renews nothing.
    const half = await signIn(who, headers.cookie);
    expect([half.headers.cookie, half.body]).toEqual(["", { secondFactor: expect.anything() }]);
    expect(await codeOf(await near.call(headers, "POST", "/members", { name: "Mole" }))).toBe(
      "recent-sign-in-required",
    );
    const { ticket } = (half.body as { secondFactor: { ticket: string } }).secondFactor;
    await near.world.pool.query("update member set totp_step = null where name = $1", [who.name]);
    const full = await signIn(
      { ticket, code: generateSync({ secret: made.secret }) },
      headers.cookie,
      "/session/second",
    );
    expect((await near.call(full.headers, "POST", "/members", { name: `Added ${who.name}` })).status).toBe(201);
  });

  it("takes it also of a session that was opened with the password before there was one", async () => {
    const who = await somebody();
    const [thief, owner] = [await signIn(who), await signIn(who)];
    const made = await near.call(owner.headers, "POST", "/account/app", { password: who.password });
    const { secret } = (await made.json()) as { secret: string };
    expect((await near.call(owner.headers, "PUT", "/account/app", { code: generateSync({ secret }) })).status).toBe(
      200,
    );
    const add = (headers: Record<string, string>) => near.call(headers, "POST", "/keys", { name: "k" });
    expect(await codeOf(await add(thief.headers))).toBe("recent-sign-in-required");
    // Whoever added it has shown it just now.
    expect((await add(owner.headers)).status).toBe(201);
  });

  it("is not needed where the password is in the body and there is no second factor", async () => {
    const who = await somebody("operator");
    const { headers } = await signIn(who);
    await age(who.name, "1 hour");
    const next = "seven green lanterns sway";
    expect((await near.call(headers, "POST", "/session/password", { password: who.password, next })).status).toBe(204);
  });

  it("does not stand in for a right", async () => {
    const who = await somebody("engineer");
    const { headers } = await signIn(who);
    expect(await codeOf(await near.call(headers, "POST", "/members", { name: "Mole" }))).toBe("not-permitted");
  });
});

describe("an export of the request log", () => {
  const exported = (key: string, form = "csv") => near.call(key, "GET", `/requests.${form}?limit=1`);

  it("is given to no key that was not created for it, in no form, and in no other spelling of the address", async () => {
    const { key } = await owner.addKey({ name: "nightly" });
    for (const form of ["csv", "jsonl", "c%73v"])
      expect([form, (await exported(key, form)).status]).toEqual([form, 403]);
    expect((await near.call(key, "HEAD", "/requests.csv")).status).toBe(403);
    expect((await near.call(key, "GET", "/requests")).status).toBe(200);
  });

  it("is given to a key that was, and no more than its role and sites", async () => {
    const made = await owner.addKey({ name: "for exports", exports: true });
    expect(made.exports).toBe(true);
    expect((await exported(made.key)).status).toBe(200);
    const weak = await owner.addKey({ name: "for nothing", exports: true, most: "user" });
    expect(await codeOf(await exported(weak.key))).toBe("not-permitted");
    expect((await owner.keys()).find(({ name }) => name === "for exports")).toMatchObject({ exports: true });
  });
});

describe("keys, when their holder's password is reset", () => {
  async function reset(endKeys: boolean | undefined) {
    const who = await somebody("engineer");
    const { headers } = await signIn(who);
    const added = await near.call(headers, "POST", "/keys", { name: "laptop" });
    const { key } = (await added.json()) as { key: string };
    const token = (await owner.resetMember(who.name)).path.split("#").at(-1) ?? "";
    const shown = await near.call({ origin: near.world.service.url }, "POST", "/session/reset/check", { token });
    expect(await shown.json()).toEqual({
      name: who.name,
      keys: [{ name: "laptop", createdAt: expect.any(String), expiresAt: expect.any(String) }],
    });
    const body = { token, password: "nine slow ferries hum", ...(endKeys === undefined ? {} : { endKeys }) };
    expect((await near.call({ origin: near.world.service.url }, "POST", "/session/reset", body)).status).toBe(204);
    expect(
      await codeOf(await near.call({ origin: near.world.service.url }, "POST", "/session/reset/check", { token })),
    ).toBe("wrong-link");
    return refusal(asKey(key).session());
  }

  it("end unless they choose otherwise", async () => {
    expect([await reset(undefined), await reset(true), await reset(false)]).toEqual([
      "wrong-key",
      "wrong-key",
      "taken",
    ]);
  });

  it("end with a change of password where they choose so", async () => {
    const who = await somebody("engineer");
    const { headers } = await signIn(who);
    const added = await near.call(headers, "POST", "/keys", { name: "laptop" });
    const { key } = (await added.json()) as { key: string };
    const next = "seven green lanterns sway";
    const change = (password: string, to: string, endKeys: boolean) =>
      near.call(headers, "POST", "/session/password", { password, next: to, endKeys });
    expect((await change(who.password, next, false)).status).toBe(204);
    expect(await refusal(asKey(key).session())).toBe("taken");
    expect((await change(next, "eight blue ladders lean", true)).status).toBe(204);
    expect(await refusal(asKey(key).session())).toBe("wrong-key");
  });
});

describe("keys of inlets that a member has created", () => {
  async function engineerWithInletKey() {
    const who = await somebody("engineer");
    const { headers } = await signIn(who);
    const body = { name: `tablet of ${who.name}`.slice(0, 70), inlet: "hall-tablet" };
    const { key } = (await (await near.call(headers, "POST", "/keys", body)).json()) as { key: string };
    const works = async () =>
      (await refusal(asKey(key).ask({ target: "wren/porch", action: "on" }, { inlet: "hall-tablet" }))) === "taken";
    expect(await works()).toBe(true);
    expect((await owner.keys()).find(({ name }) => name === body.name)).toMatchObject({
      createdBy: who.name,
      creatorIsGone: false,
    });
    return { who, name: body.name, works };
  }

  it("stay when the member is deleted, and are listed as theirs", async () => {
    const { who, name, works } = await engineerWithInletKey();
    await owner.removeMember(who.name);
    expect(await works()).toBe(true);
    expect((await owner.keys()).find((key) => key.name === name)).toMatchObject({
      createdBy: who.name,
      creatorIsGone: true,
    });
  });

  it("end at once when the owner says so, and no others", async () => {
    const [gone, other] = [await engineerWithInletKey(), await engineerWithInletKey()];
    await owner.removeMember(gone.who.name, "revoke");
    expect([await gone.works(), await other.works()]).toEqual([false, true]);
    const { entries } = await owner.audit();
    expect(
      entries.find(({ action, object }) => action === "member removed" && object === gone.who.name)?.after,
    ).toEqual({
      revokedKeys: [`${gone.name}, of hall-tablet`],
    });
  });
});
