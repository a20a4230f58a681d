/** Whoever guesses is seen: in the audit log, with the cause, and by an alert that says what happens. */
import { randomBytes } from "node:crypto";
import { connect } from "node:net";
import { createPanelClient } from "@bold-relay/api";
import type { InletDescription } from "@bold-relay/core";
import { freePort } from "@bold-relay/rig";
import { afterAll, beforeAll, expect, it } from "vitest";
import { signatureOf } from "../src/index.ts";
import { poll } from "./support/until.ts";
import { createWorld, OWNER, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld({
    environment: {
      BOLD_RELAY_SECRETS_KEY: randomBytes(32).toString("base64"),
      BOLD_RELAY_TRUSTED_PROXIES: "127.0.0.1",
    },
  });
});
afterAll(() => world.stop());

const signIn = async (name: string, password: string, from: string): Promise<number> => {
  const headers = { origin: world.service.url, "content-type": "application/json", "x-forwarded-for": from };
  const body = JSON.stringify({ name, password });
  const response = await fetch(`${world.service.url}/api/v1/session`, { method: "POST", headers, body });
  await response.body?.cancel();
  return response.status;
};

async function untilRefused(tries: number, guess: (turn: number) => Promise<number>): Promise<void> {
  for (let turn = 0; turn < tries; turn += 1) if ((await guess(turn)) === 429) return;
  throw new Error(`none of ${tries} guesses was slowed down`);
}

const alertAbout = async (subject: string) => {
  const alerts = await poll(
    () => world.client.alerts(),
    (all) => all.some((one) => one.kind === "secret-guessed" && one.subject === subject),
  );
  return alerts.find((one) => one.subject === subject);
};

const recorded = async (action: string, object: string, address: string | null) => {
  const entries = await poll(
    async () => (await world.client.audit()).entries,
    (all) => all.some((one) => one.action === action && one.object === object),
  );
  expect(entries.find((one) => one.action === action && one.object === object)).toMatchObject({
    actor: /keys/.test(action) ? "An unknown caller" : "A caller with a key",
    keyId: /keys/.test(action) ? null : expect.any(Number),
    ...(address === null ? {} : { address }),
  });
};

const saveInlet = (inlet: object) => world.client.saveInlet({ site: world.site, ...inlet } as InletDescription, null);

it("guesses at a password: an alert names the account, and where a sign-in followed it says so", async () => {
  await untilRefused(10, (turn) => signIn(OWNER.name, `a guess ${turn}`, "203.0.113.7"));
  const alert = await alertAbout(`account ${OWNER.name}`);
  expect(alert?.title).toBe(`Somebody guesses the password of ${OWNER.name}`);
  expect(alert?.text).toMatch(/slowed down, from one address\. The account is not locked/);
  // Addresses are for those who may read the audit log.
  expect(JSON.stringify(alert)).not.toContain("203.0.113.7");
  // The right one at last, as a guess would be.
  await poll(
    () => signIn(OWNER.name, OWNER.password, "203.0.113.7"),
    (status) => status === 200 || status === 201 || status === 204,
  );
  await poll(
    () => world.client.alerts(),
    (all) => all.some(({ text }) => /A sign-in followed from the same address\. Ask the member/.test(text)),
  );
});

it("guesses at names that nobody has: one alert, with no word of what was typed", async () => {
  await untilRefused(60, (turn) => signIn(`correct horse ${turn}`, "a guess", "203.0.113.8"));
  expect((await alertAbout("names"))?.title).toBe("Somebody guesses names of accounts");
  expect(JSON.stringify(await world.client.alerts())).not.toContain("correct");
});

it("guesses at the PIN of a panel, and at keys of it", async () => {
  const slug = "kitchen-panel";
  const settings = { items: [{ show: "wren/porch" }], pin: "2580" };
  await saveInlet({ slug, name: "Kitchen", kind: "panel", settings });
  const { key } = await world.client.addKey({ name: "tablet", inlet: slug });
  const panel = createPanelClient({ baseUrl: world.service.url, slug, key, pinToken: null });
  await untilRefused(20, (turn) =>
    panel.enterPin(String(1000 + turn)).then(
      () => 200,
      (error) => error.problem.status,
    ),
  );
  await recorded("PINs slowed down", slug, "127.0.0.1");
  expect((await alertAbout(`pin ${slug}`))?.title).toBe("Somebody guesses the PIN of Kitchen");
  const guessKey = async (turn: number) => {
    const headers = { authorization: `Bearer brk_${turn}`, "x-forwarded-for": "203.0.113.9" };
    const response = await fetch(`${world.service.url}/in/${slug}/panel`, { headers });
    await response.body?.cancel();
    return response.status;
  };
  await untilRefused(60, guessKey);
  await recorded("keys slowed down", slug, "203.0.113.9");
  expect((await alertAbout(`key ${slug}`))?.title).toBe("Somebody guesses a key of Kitchen");
});

it("guesses at keys of a typed line", async () => {
  const [slug, port] = ["guarded-line", await freePort()];
  await saveInlet({ slug, name: "Typed line", kind: "line", routes: [], settings: { port } });
  const converse = () =>
    new Promise<string>((resolve) => {
      let text = "";
      const socket = connect(port, "127.0.0.1", () => socket.write("a guess\r\nanother\r\nand more\r\n"));
      socket.on("data", (piece) => {
        text += piece.toString();
      });
      socket.on("error", () => {});
      socket.on("close", () => resolve(text));
    });
  await poll(converse, (heard) => heard.includes("wrong keys from your address"));
  await recorded("keys slowed down", slug, null);
  expect((await alertAbout(`key ${slug}`))?.title).toBe("Somebody guesses a key of Typed line");
});

it("guesses at the PIN of a keypad, by a caller", async () => {
  const slug = "phone";
  const menu = { say: "Press 1 for the porch.", keys: { "1": { phrase: "porch in wren on" } } };
  await saveInlet({ slug, name: "Phone", kind: "keypad", perMinute: 6_000, settings: { menu, pin: "9876" } });
  const { key } = await world.client.addKey({ name: "switchboard", inlet: slug });
  for (let turn = 0; turn < 12; turn += 1) {
    const from = { call: `call ${turn}`, caller: "01632 960 002" };
    await post(slug, key, JSON.stringify(from));
    await post(slug, key, JSON.stringify({ ...from, digits: "1111#" }));
  }
  await recorded("PINs slowed down", slug, "203.0.113.10");
  expect((await alertAbout(`pin ${slug}`))?.title).toBe("Somebody guesses the PIN of Phone");
});

it("puts a caller beyond the rate limit on record, with the inlet as the cause", async () => {
  const slug = "slow-hook";
  await saveInlet({ slug, name: "Slow hook", kind: "hook", routes: [], perMinute: 1 });
  const { key } = await world.client.addKey({ name: "caller", inlet: slug });
  await untilRefused(5, () => post(slug, key, "hello"));
  await recorded("rate limit exceeded", slug, "203.0.113.10");
});

it("puts a signed caller beyond the rate limit on record: no key is shown", async () => {
  const slug = "signed-hook";
  await saveInlet({ slug, name: "Signed hook", kind: "hook", routes: [], perMinute: 1 });
  const { secret } = await world.client.makeSecret(slug);
  const at = Math.floor(Date.now() / 1000);
  await untilRefused(5, async (turn) => {
    const headers = {
      "webhook-id": `msg_${turn}`,
      "webhook-timestamp": String(at),
      "webhook-signature": signatureOf(secret, `msg_${turn}`, at, "hello"),
      "x-forwarded-for": "203.0.113.11",
    };
    const response = await fetch(`${world.service.url}/in/${slug}`, { method: "POST", headers, body: "hello" });
    await response.body?.cancel();
    return response.status;
  });
  const action = "rate limit exceeded";
  const shown = await poll(
    async () => (await world.client.audit()).entries,
    (all) => all.some((one) => one.action === action && one.object === slug),
  );
  expect(shown.find((one) => one.action === action && one.object === slug)).toMatchObject({
    actor: "An unknown caller",
    address: "203.0.113.11",
  });
});

async function post(slug: string, key: string, body: string): Promise<number> {
  const headers = { authorization: `Bearer ${key}`, "x-forwarded-for": "203.0.113.10" };
  const response = await fetch(`${world.service.url}/in/${slug}`, { method: "POST", headers, body });
  await response.body?.cancel();
  return response.status;
}
