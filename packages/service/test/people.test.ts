/** People prove who they are: passwords, reset links, second factor, sessions. Each rule from what somebody else would want. */
import { randomBytes } from "node:crypto";
import type { AccountView, ProblemError, SecondFactorView } from "@bold-relay/api";
import { createClient } from "@bold-relay/api";
import { generateSync } from "otplib";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { newKey, saveKey, sha256 } from "../src/index.ts";
import { refusal } from "./support/until.ts";
import { createWorld, OWNER, type World } from "./support/world.ts";

let world: World;
let serial = 0;

beforeAll(async () => {
  world = await createWorld({
    environment: {
      BOLD_RELAY_SECRETS_KEY: randomBytes(32).toString("base64"),
      BOLD_RELAY_TRUSTED_PROXIES: "127.0.0.1",
    },
  });
});
afterAll(() => world.stop());

interface Answer {
  readonly status: number;
  readonly body: Record<string, unknown>;
  readonly cookie: string;
}

/** Calls as a page of ours does. `from` is the address that a trusted proxy tells. */
async function call(method: string, path: string, body?: object, cookie = "", from = "192.0.2.1"): Promise<Answer> {
  const response = await fetch(`${world.service.url}/api/v1${path}`, {
    method,
    headers: {
      origin: world.service.url,
      "content-type": "application/json",
      "x-forwarded-for": from,
      ...(cookie === "" ? {} : { cookie }),
    },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  const text = await response.text();
  const json = response.headers.get("content-type")?.includes("json") ? JSON.parse(text) : {};
  return {
    status: response.status,
    body: json,
    cookie: (response.headers.get("set-cookie") ?? "").split(";")[0] ?? "",
  };
}

async function member(role: "operator" | "engineer" | "owner" | "reader" = "operator") {
  serial += 1;
  const name = `Person ${serial}`;
  const { password } = await world.client.addMember({ name, role });
  return { name, password };
}

const signIn = (who: { name: string; password: string }, from?: string) => call("POST", "/session", who, "", from);
const account = async (cookie: string) =>
  (await call("GET", "/account", undefined, cookie)).body as unknown as AccountView;
const codeOf = ({ body }: Answer) => body.code;

const newApp = (cookie: string, { password }: { password: string }) =>
  call("POST", "/account/app", { password }, cookie);

/** Adds an authenticator app. @returns its secret, and the codes for recovery */
async function addApp(who: { name: string; password: string }, cookie: string) {
  const { secret } = (await newApp(cookie, who)).body as { secret: string };
  const { body } = await confirmApp(secret, cookie);
  return { secret, recoveryCodes: (body as { recoveryCodes: string[] }).recoveryCodes };
}

/** With the code of the time step before: the one of now is still good for signing in. */
async function confirmApp(secret: string, cookie: string) {
  const send = async () => {
    const code = generateSync({ secret, epoch: Date.now() / 1000 - 30 });
    return { code, ...(await call("PUT", "/account/app", { code }, cookie)) };
  };
  const first = await send();
  // A step may have ended while it was on its way: then that code is two steps old.
  return first.status === 200 ? first : send();
}

const ticketOf = ({ body }: Answer) => (body as unknown as SecondFactorView).secondFactor.ticket;

describe("an invitation", () => {
  it("is a link by which a member chooses the first password, once; until then nobody signs in as them", async () => {
    const name = "Pilar Invited";
    const made = await world.client.inviteMember({ name, role: "reader" });
    expect(made.password).toBeNull();
    expect((await signIn({ name, password: "" })).status).not.toBe(200);
    const token = made.invitation.path.split("#").at(-1) ?? "";
    const password = "lantern quarry violin nine";
    expect((await call("POST", "/session/reset", { token, password })).status).toBe(204);
    expect((await signIn({ name, password })).status).toBe(200);
    expect((await call("POST", "/session/reset", { token, password: "another quarry violin ten" })).status).not.toBe(
      204,
    );
    const days = (Date.parse(made.invitation.expiresAt) - Date.now()) / 86_400_000;
    expect(days).toBeGreaterThan(6.9);
    expect(days).toBeLessThan(7.1);
  });

  it("that an owner replaces by a new link counts no more", async () => {
    const name = "Bruno Invited";
    const first = await world.client.inviteMember({ name, role: "reader" });
    await world.client.resetMember(name);
    const token = first.invitation.path.split("#").at(-1) ?? "";
    const answer = await call("POST", "/session/reset", { token, password: "lantern quarry violin nine" });
    expect(answer.status).not.toBe(204);
  });
});

describe("a password", () => {
  it.each([
    ["short one", "at least 12 characters"],
    ["aaaaaaaaaaaaaaaaaaaa", "guessed soon"],
    ["password1234", "guessed soon"],
    ["qwertyuiop123456", "guessed soon"],
  ])("is not “%s”: %s", async (next, why) => {
    const who = await member();
    const { cookie } = await signIn(who);
    const answer = await call("POST", "/session/password", { password: who.password, next }, cookie);
    expect([answer.status, codeOf(answer), answer.body.detail]).toEqual([
      422,
      "weak-password",
      expect.stringContaining(why),
    ]);
  });

  it("is not the one of before", async () => {
    const who = await member();
    const { cookie } = await signIn(who);
    const answer = await call("POST", "/session/password", { password: who.password, next: who.password }, cookie);
    expect(answer.body.detail).toContain("of before");
  });

  it("is changed by who knows the one of now, and by nobody with a key or an open page", async () => {
    const who = await member();
    const { cookie } = await signIn(who);
    const next = "seven green lanterns sway";
    expect(codeOf(await call("POST", "/session/password", { password: "a guess of mine", next }, cookie))).toBe(
      "wrong-own-password",
    );
    expect((await call("POST", "/session/password", { password: who.password, next }, cookie)).status).toBe(204);
    expect((await signIn({ name: who.name, password: next })).status).toBe(200);
  });
});

describe("a browser in which its member has signed in before", () => {
  /** Signs in; the cookie by which the browser is known, and the status. */
  async function signInFrom(who: { name: string; password: string }, cookie: string, from: string) {
    const response = await fetch(`${world.service.url}/api/v1/session`, {
      method: "POST",
      headers: { origin: world.service.url, "content-type": "application/json", "x-forwarded-for": from, cookie },
      body: JSON.stringify(who),
    });
    await response.body?.cancel();
    const device = response.headers.getSetCookie().find((one) => one.startsWith("relay_device="));
    return { status: response.status, device: device?.split(";")[0] ?? "", set: device ?? "" };
  }
  const guess = async (name: string, from: string) => {
    for (let turn = 0; turn < 8; turn += 1) await signInFrom({ name, password: `a guess ${turn}` }, "", from);
  };

  it("is never slowed down by guesses, wherever they come from; its cookie is of no use for another account", async () => {
    const [who, other] = [await member(), await member()];
    const { device, set } = await signInFrom(who, "", "192.0.2.40");
    expect(set).toMatch(/Path=\/api\/v1\/session; .*HttpOnly; SameSite=Strict/);
    await guess(who.name, "192.0.2.40");
    await guess(other.name, "192.0.2.40");
    // Also those who share the address, and whose it is not.
    expect((await signInFrom(who, "", "192.0.2.40")).status).toBe(429);
    expect((await world.client.audit()).entries).toContainEqual(
      expect.objectContaining({ action: "sign-in slowed down", object: who.name, actor: "An unknown caller" }),
    );
    expect((await signInFrom(who, device, "192.0.2.40")).status).toBe(200);
    expect((await signInFrom(who, device, "198.51.100.40")).status).toBe(200);
    expect((await signInFrom(other, device, "192.0.2.40")).status).toBe(429);
  });

  it("gets another cookie with each sign-in: one that somebody has put there is of no use to them", async () => {
    const who = await member();
    const planted = `relay_device=${"A".repeat(43)}`;
    const { device } = await signInFrom(who, planted, "192.0.2.42");
    expect(device).not.toBe(planted);
    await guess(who.name, "192.0.2.42");
    expect((await signInFrom(who, planted, "192.0.2.42")).status).toBe(429);
    const next = await signInFrom(who, device, "192.0.2.42");
    expect(next.status).toBe(200);
    expect((await signInFrom(who, device, "192.0.2.42")).status).toBe(429);
    expect((await signInFrom(who, next.device, "192.0.2.42")).status).toBe(200);
  });

  it("is slowed down by its own guesses, and known no more after a reset", async () => {
    const who = await member();
    const { device } = await signInFrom(who, "", "192.0.2.41");
    const statuses: number[] = [];
    for (let turn = 0; turn < 8; turn += 1)
      statuses.push((await signInFrom({ ...who, password: `a guess ${turn}` }, device, "192.0.2.41")).status);
    expect(statuses.at(-1)).toBe(429);
    const token = (await world.client.resetMember(who.name)).path.split("#").at(-1) ?? "";
    const password = "nine slow ferries hum";
    expect((await call("POST", "/session/reset", { token, password })).status).toBe(204);
    await guess(who.name, "192.0.2.41");
    expect((await signInFrom({ ...who, password }, device, "192.0.2.41")).status).toBe(429);
  });
});

describe("a reset link", () => {
  const reset = (token: string, password = "nine slow ferries hum") =>
    call("POST", "/session/reset", { token, password });

  it("works once, and ends every session and key of the member", async () => {
    const who = await member("engineer");
    const { cookie } = await signIn(who);
    const { rows } = await world.pool.query("select id from member where name = $1", [who.name]);
    const key = newKey();
    await saveKey(world.pool, { name: "k", tokenSha256: sha256(key), memberId: rows[0].id });
    const { path } = await world.client.resetMember(who.name);
    const token = path.split("#").at(-1) ?? "";
    expect((await call("GET", "/board", undefined, cookie)).status).toBe(200);
    expect(codeOf(await reset(token, "short"))).toBe("weak-password");
    expect((await reset(token)).status).toBe(204);
    expect(codeOf(await reset(token))).toBe("wrong-link");
    expect((await call("GET", "/board", undefined, cookie)).status).toBe(401);
    expect(await refusal(createClient({ baseUrl: world.service.url, key }).session())).toBe("wrong-key");
    expect((await signIn({ name: who.name, password: "nine slow ferries hum" })).status).toBe(200);
  });

  it("ends when a newer one is made, when its time is over, and is made by owners only", async () => {
    const who = await member();
    const first = (await world.client.resetMember(who.name)).path.split("#").at(-1) ?? "";
    const second = (await world.client.resetMember(who.name)).path.split("#").at(-1) ?? "";
    expect(codeOf(await reset(first))).toBe("wrong-link");
    await world.pool.query("update password_reset set expires_at = now()");
    expect(codeOf(await reset(second))).toBe("wrong-link");
    const engineer = await member("engineer");
    const { cookie } = await signIn(engineer);
    expect(codeOf(await call("POST", `/members/${OWNER.name}/reset`, {}, cookie))).toBe("not-permitted");
    expect(codeOf(await reset("no such token"))).toBe("wrong-link");
  });
});

describe("a second factor", () => {
  it("is asked for once it is confirmed, takes each code once, and lets nobody in before", async () => {
    const who = await member();
    const { cookie } = await signIn(who);
    const { secret } = (await newApp(cookie, who)).body as { secret: string };
    // Not confirmed so far: nobody is shut out by a secret that no phone has.
    expect((await signIn(who)).cookie).not.toBe("");
    expect(codeOf(await call("PUT", "/account/app", { code: "000000" }, cookie))).toBe("wrong-second-factor");
    const { code: before, status } = await confirmApp(secret, cookie);
    expect(status).toBe(200);

    const asked = await signIn(who);
    expect([asked.status, asked.cookie, asked.body]).toEqual([
      200,
      "",
      { secondFactor: { ticket: expect.any(String), app: true, passkey: null } },
    ]);
    const ticket = ticketOf(asked);
    // The one that confirmed it was taken.
    expect(codeOf(await call("POST", "/session/second", { ticket, code: before }))).toBe("wrong-second-factor");
    const code = generateSync({ secret });
    const signed = await call("POST", "/session/second", { ticket, code });
    expect([signed.status, (await account(signed.cookie)).app]).toEqual([200, true]);
    const again = ticketOf(await signIn(who));
    expect(codeOf(await call("POST", "/session/second", { ticket: again, code }))).toBe("wrong-second-factor");
    expect(codeOf(await call("POST", "/session/second", { ticket, code }))).toBe("sign-in-over");
  });

  it("gives way to a recovery code, once", async () => {
    const who = await member();
    const { recoveryCodes } = await addApp(who, (await signIn(who)).cookie);
    expect(new Set(recoveryCodes).size).toBe(10);
    const [recoveryCode = ""] = recoveryCodes;
    const typed = recoveryCode.toLowerCase().replaceAll("-", " ");
    const signed = await call("POST", "/session/second", { ticket: ticketOf(await signIn(who)), recoveryCode: typed });
    expect([signed.status, (await account(signed.cookie)).recoveryCodes]).toEqual([200, 9]);
    const ticket = ticketOf(await signIn(who));
    expect(codeOf(await call("POST", "/session/second", { ticket, recoveryCode }))).toBe("wrong-second-factor");
  });

  it("is not guessed: a sign-in takes five tries, and others slow down", async () => {
    const who = await member();
    await addApp(who, (await signIn(who)).cookie);
    const ticket = ticketOf(await signIn(who));
    const answers: unknown[] = [];
    for (let turn = 0; turn < 8; turn += 1)
      answers.push(codeOf(await call("POST", "/session/second", { ticket, code: "123456" }, "", "198.51.100.9")));
    expect(new Set(answers.slice(0, 3))).toEqual(new Set(["wrong-second-factor"]));
    // Whichever comes first: five tries end the sign-in, and tries in quick succession are slowed down.
    expect(["sign-in-over", "too-many-attempts"]).toContain(answers.at(-1));
  });

  it("never slows down who gives the right one where they are known, whoever guesses elsewhere", async () => {
    const who = await member();
    const { recoveryCodes } = await addApp(who, (await signIn(who)).cookie);
    for (let turn = 0; turn < 6; turn += 1)
      await signIn({ ...who, password: "a guess that is wrong" }, "198.51.100.23");
    const statuses: number[] = [];
    for (const recoveryCode of recoveryCodes.slice(0, 8)) {
      const ticket = ticketOf(await signIn(who));
      statuses.push((await call("POST", "/session/second", { ticket, recoveryCode })).status);
    }
    expect(statuses).toEqual(Array(8).fill(200));
  });

  it("is taken off with the password, and not written over from an open page", async () => {
    const who = await member();
    const { cookie } = await signIn(who);
    await addApp(who, cookie);
    expect(codeOf(await newApp(cookie, who))).toBe("exists-already");
    expect(codeOf(await call("POST", "/account/app/off", { password: "a guess of mine" }, cookie))).toBe(
      "wrong-own-password",
    );
    expect((await call("POST", "/account/app/off", { password: who.password }, cookie)).status).toBe(204);
    expect((await signIn(who)).cookie).not.toBe("");
  });

  it("is kept sealed, and its recovery codes hashed", async () => {
    const who = await member();
    const { secret, recoveryCodes } = await addApp(who, (await signIn(who)).cookie);
    const { rows } = await world.pool.query("select * from member where name = $1", [who.name]);
    const { rows: codes } = await world.pool.query("select * from recovery_code");
    const stored = JSON.stringify([rows, codes]) + rows.map((row) => row.totp_secret.toString("latin1")).join("");
    for (const hidden of [secret, ...recoveryCodes]) expect(stored).not.toContain(hidden);
  });

  it("that the role needs is the only thing open until it is there", async () => {
    const who = await member("engineer");
    const { cookie } = await signIn(who);
    expect((await call("GET", "/board", undefined, cookie)).status).toBe(200);
    await world.client.saveTeamRules({ secondFactorFor: ["engineer"] });
    expect(codeOf(await call("GET", "/board", undefined, cookie))).toBe("second-factor-required");
    expect(codeOf(await call("GET", "/live", undefined, cookie))).toBe("second-factor-required");
    expect((await account(cookie)).secondFactorRequired).toBe(true);
    await addApp(who, cookie);
    expect((await call("GET", "/board", undefined, cookie)).status).toBe(200);
    const operator = await member("operator");
    expect((await call("GET", "/board", undefined, (await signIn(operator)).cookie)).status).toBe(200);
    await world.client.saveTeamRules({ secondFactorFor: [] });
  });
});

describe("a second factor that its member has lost", () => {
  const remove = (name: string, password: string, cookie: string) =>
    call("POST", `/members/${encodeURIComponent(name)}/second-factor/off`, { password }, cookie);
  const withApp = async () => {
    const who = await member("engineer");
    const { cookie } = await signIn(who);
    await addApp(who, cookie);
    return { who, cookie };
  };

  it("is removed by an owner with their own password; the member's sessions end, and they are told who did it", async () => {
    const [{ who, cookie: theirs }, owner] = [await withApp(), await member("owner")];
    const { cookie } = await signIn(owner);
    const listed = async () => (await world.client.members()).find(({ name }) => name === who.name)?.secondFactor;
    expect(await listed()).toBe(true);
    expect(codeOf(await remove(who.name, who.password, cookie))).toBe("wrong-own-password");
    expect((await remove(who.name, owner.password, cookie)).status).toBe(204);
    expect(await listed()).toBe(false);
    expect((await call("GET", "/board", undefined, theirs)).status).toBe(401);
    const signed = await signIn(who);
    expect((await account(signed.cookie)).secondFactorRemoved).toEqual({ by: owner.name, at: expect.any(String) });
    expect((await world.client.audit()).entries).toContainEqual(
      expect.objectContaining({ actor: owner.name, action: "second factor removed", object: who.name }),
    );
    await addApp(who, signed.cookie);
    expect((await account(signed.cookie)).secondFactorRemoved).toBeNull();
  });

  it("is removed by nobody else, and not with a key", async () => {
    const { who } = await withApp();
    for (const role of ["reader", "operator", "engineer"] as const) {
      const other = await member(role);
      const answer = await remove(who.name, other.password, (await signIn(other)).cookie);
      expect([role, answer.status, codeOf(answer)]).toEqual([role, 403, "not-permitted"]);
    }
    const withKey = createClient({ baseUrl: world.service.url, key: world.key });
    expect(await refusal(withKey.removeSecondFactor(who.name, { password: OWNER.password }))).toBe(
      "recent-sign-in-required",
    );
    expect((await signIn(who)).body).toMatchObject({ secondFactor: { app: true } });
  });

  it("is not there for who has none", async () => {
    const [who, owner] = [await member(), await member("owner")];
    const { cookie } = await signIn(owner);
    expect((await remove(who.name, owner.password, cookie)).status).toBe(404);
    expect((await remove("Nobody", owner.password, cookie)).status).toBe(404);
  });
});

describe("a password that an open page asks for again", () => {
  it.each([
    ["POST", "/account/app", {}],
    ["POST", "/account/app/off", {}],
    ["POST", "/account/passkeys/options", {}],
    ["POST", "/session/password", { next: "seven green lanterns sway" }],
    ["POST", "/members/Nobody/second-factor/off", {}],
  ])("is not guessed: %s %s", async (method, path, body) => {
    const who = await member("owner");
    const { cookie } = await signIn(who);
    const guess = (password: string) => call(method, path, { password, ...body }, cookie);
    const answers = await Promise.all(Array.from({ length: 8 }, (_, turn) => guess(`a guess of mine ${turn}`)));
    const codes = answers.map(codeOf);
    expect(codes.filter((code) => code === "wrong-own-password").length).toBeLessThan(7);
    expect(codes).toContain("too-many-attempts");
    // Counted together, whatever it is asked for.
    const elsewhere = path === "/account/app" ? "/account/app/off" : "/account/app";
    const twice = [1, 2].map((turn) => call("POST", elsewhere, { password: `another guess ${turn}` }, cookie));
    expect((await Promise.all(twice)).map(codeOf)).toContain("too-many-attempts");
    expect((await world.client.audit()).entries).toContainEqual(
      expect.objectContaining({ actor: who.name, action: "password asked again: wrong" }),
    );
  });
});

describe("a session", () => {
  it("is listed with where it is, and ended from another one", async () => {
    const who = await member();
    const [mine, theirs] = [await signIn(who, "192.0.2.7"), await signIn(who, "198.51.100.7")];
    const { sessions } = await account(mine.cookie);
    expect(sessions.map(({ address, current, proof }) => [address, current, proof])).toEqual([
      ["198.51.100.7", false, "password"],
      ["192.0.2.7", true, "password"],
    ]);
    const [other] = sessions;
    expect((await call("DELETE", `/account/sessions/${other?.id}`, undefined, mine.cookie)).status).toBe(204);
    expect((await call("GET", "/board", undefined, theirs.cookie)).status).toBe(401);
    const stranger = await signIn(await member());
    expect((await call("DELETE", `/account/sessions/${sessions[1]?.id}`, undefined, stranger.cookie)).status).toBe(404);
    expect((await call("GET", "/board", undefined, mine.cookie)).status).toBe(200);
  });

  it.each([
    ["two hours without a call", "seen_at = now() - interval '121 minutes'"],
    ["half a day", "expires_at = now() - interval '1 second'"],
  ])("ends after %s", async (_when, change) => {
    const who = await member();
    const { cookie } = await signIn(who);
    await world.pool.query(`update session set ${change} where member_id = (select id from member where name = $1)`, [
      who.name,
    ]);
    expect((await call("GET", "/board", undefined, cookie)).status).toBe(401);
  });

  it("goes on while it is used", async () => {
    const who = await member();
    const { cookie } = await signIn(who);
    const age =
      "update session set seen_at = now() - interval '100 minutes' where member_id = (select id from member where name = $1)";
    for (let turn = 0; turn < 3; turn += 1) {
      await world.pool.query(age, [who.name]);
      expect((await call("GET", "/board", undefined, cookie)).status).toBe(200);
    }
  });
});

describe("an account", () => {
  it("is not touched with a key", async () => {
    const key = (await world.client.addKey({ name: "for the account" })).key;
    const client = createClient({ baseUrl: world.service.url, key });
    expect(
      await Promise.all([
        refusal(client.account()),
        refusal(client.newApp({ password: OWNER.password })),
        refusal(client.confirmApp({ code: "123456" })),
        refusal(client.removeApp({ password: OWNER.password })),
        refusal(client.passkeyOptions({ password: OWNER.password })),
        refusal(client.addPasskey({ ticket: "x", name: "x", passkey: {} })),
        refusal(client.endSession("x")),
      ]),
    ).toEqual([
      "not-permitted",
      "recent-sign-in-required",
      "not-permitted",
      "recent-sign-in-required",
      "recent-sign-in-required",
      "not-permitted",
      "not-permitted",
    ]);
  });

  it("leaves a trace in the audit log of each sign-in, failure and change, and no secret in it", async () => {
    const who = await member();
    const { cookie } = await signIn(who);
    const { secret, recoveryCodes } = await addApp(who, cookie);
    await signIn({ name: who.name, password: "a guess of mine" }, "198.51.100.77");
    await call("DELETE", "/session", undefined, cookie);
    const entries = (await world.client.audit()).entries.filter(({ object }) => object === who.name);
    expect(entries.map(({ action }) => action)).toEqual(
      expect.arrayContaining(["signed in", "authenticator app added", "sign-in failed", "signed out", "member added"]),
    );
    expect(entries.find(({ action }) => action === "sign-in failed")).toMatchObject({
      actor: "An unknown caller",
      address: "198.51.100.77",
    });
    const text = JSON.stringify(entries);
    for (const hidden of [secret, who.password, ...recoveryCodes]) expect(text).not.toContain(hidden);
  });
});

describe("guessing", () => {
  it("is slowed down where it comes from, and the member nowhere else, at a new address or a known one", async () => {
    const who = await member();
    await signIn(who, "192.0.2.50");
    const guesses: number[] = [];
    for (let turn = 0; turn < 8; turn += 1)
      guesses.push((await signIn({ ...who, password: `guess ${turn}` }, "203.0.113.5")).status);
    expect(guesses.slice(0, 5)).toEqual(Array(5).fill(401));
    expect(guesses.at(-1)).toBe(429);
    // Not even the right password from there: else the wait would tell whether a guess was right.
    expect((await signIn(who, "203.0.113.5")).status).toBe(429);
    expect((await signIn(who, "198.51.100.99")).status).toBe(200);
    expect((await signIn(who, "192.0.2.50")).status).toBe(200);
  });

  it("with many at once is counted before any password is looked at", async () => {
    const who = await member();
    const answers = await Promise.all(
      Array.from({ length: 15 }, (_, turn) => signIn({ ...who, password: `guess ${turn}` }, "203.0.113.200")),
    );
    expect(answers.filter(({ status }) => status === 401).length).toBeLessThanOrEqual(5);
  });

  it("tells the same of a wrong name and a wrong password", async () => {
    const who = await member();
    const wrong = await Promise.all([
      signIn({ name: "Nobody at all", password: "a guess of mine" }, "198.51.100.60"),
      signIn({ ...who, password: "a guess of mine" }, "198.51.100.60"),
    ]);
    expect(wrong[0]?.body).toEqual(wrong[1]?.body);
  });
});

describe("a page of somebody else", () => {
  it.each(["/session", "/session/second", "/session/passkey/options", "/session/passkey", "/session/reset"])(
    "cannot call %s",
    async (path) => {
      const response = await fetch(`${world.service.url}/api/v1${path}`, {
        method: "POST",
        headers: { origin: "https://evil.example", "content-type": "application/json" },
        body: JSON.stringify({ name: OWNER.name, password: OWNER.password }),
      });
      expect(((await response.json()) as ProblemError["problem"]).code).toBe("cross-site");
    },
  );
});
