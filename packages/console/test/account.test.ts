/** One's own account, as people use it: passkeys with Chromium's virtual authenticator, an authenticator app, a reset link. */
import { randomBytes } from "node:crypto";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { generateSync } from "otplib";
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { createWorld, OWNER, type World } from "../../service/test/support/world.ts";
import { openBrowser, openPage } from "./support/browser.ts";

let world: World;
let browser: Browser;
let page: Page;
let serial = 0;
let who: { name: string; password: string };
const errors: string[] = [];

beforeAll(async () => {
  world = await createWorld({
    consoleDir: path.join(path.dirname(fileURLToPath(import.meta.url)), "../dist"),
    environment: { BOLD_RELAY_SECRETS_KEY: randomBytes(32).toString("base64") },
  });
  browser = await openBrowser();
});
afterAll(async () => {
  await browser.close();
  await world.stop();
});

beforeEach(async () => {
  serial += 1;
  const name = `Person ${serial}`;
  who = { name, password: (await world.client.addMember({ name, role: "operator" })).password };
  await page?.close();
  page = await openPage(browser, errors);
});

/** Passkeys belong to a host name: an address has none. */
const at = (place: string) => world.service.url.replace("127.0.0.1", "localhost") + place;

async function signIn(as = who): Promise<void> {
  await page.goto(at("/account"));
  await page.getByLabel("Name", { exact: true }).fill(as.name);
  await page.getByLabel("Password", { exact: true }).fill(as.password);
  await page.getByRole("button", { name: "Sign in", exact: true }).click();
}

async function signOut(): Promise<void> {
  await page.getByRole("button", { name: "Sign out" }).click();
  await page.getByRole("heading", { name: "Sign in" }).waitFor();
}

const heading = () => page.getByRole("heading", { name: `Account of ${who.name}` });

/** An authenticator that verifies its person, as a phone does. */
async function giveAuthenticator(): Promise<void> {
  const devtools = await page.context().newCDPSession(page);
  await devtools.send("WebAuthn.enable");
  const options = {
    protocol: "ctap2",
    transport: "internal",
    hasResidentKey: true,
    hasUserVerification: true,
  } as const;
  await devtools.send("WebAuthn.addVirtualAuthenticator", { options: { ...options, isUserVerified: true } });
}

describe("a passkey", () => {
  it("is made with the password, and then signs in: beside the password, and instead of it", async () => {
    await giveAuthenticator();
    await signIn();
    await heading().waitFor();
    const passkeys = page.getByRole("region", { name: "Passkeys" });
    await passkeys.getByLabel("Name of the passkey").fill("my phone");
    await passkeys.getByLabel("Your password").fill("a guess of mine");
    await passkeys.getByRole("button", { name: "Add passkey" }).click();
    await page.getByRole("alert").getByText("This is not your password").waitFor();
    await passkeys.getByLabel("Your password").fill(who.password);
    await passkeys.getByRole("button", { name: "Add passkey" }).click();
    await passkeys.getByText("my phone").waitFor();

    await signOut();
    await signIn();
    await page.getByRole("heading", { name: "Second factor" }).waitFor();
    await page.getByRole("button", { name: "Use passkey" }).click();
    await heading().waitFor();
    await page.getByRole("region", { name: "Sessions" }).getByText("by password and passkey").waitFor();

    await signOut();
    await page.getByRole("button", { name: "Sign in with a passkey" }).click();
    await heading().waitFor();
    await page.getByRole("region", { name: "Sessions" }).getByText("by passkey", { exact: false }).first().waitFor();
    await page.getByRole("button", { name: "Delete" }).click();
    await page.getByRole("button", { name: "Delete passkey my phone" }).click();
    await page.getByText("You have no passkey.").waitFor();
  });
});

/** @returns its secret */
async function addApp(): Promise<string> {
  const section = page.getByRole("region", { name: "Authenticator app" });
  await section.getByLabel("Your password").fill(who.password);
  await section.getByRole("button", { name: "Add authenticator app" }).click();
  const secret = await section.locator("p.font-mono").innerText();
  await page.getByRole("img", { name: "QR code of the secret" }).waitFor();
  await page.getByLabel("Code", { exact: true }).fill(generateSync({ secret, epoch: Date.now() / 1000 - 30 }));
  await page.getByRole("button", { name: "Confirm code" }).click();
  return secret;
}

describe("an authenticator app", () => {
  it("is added with its first code, and asked for at the next sign-in; a recovery code helps once", async () => {
    await signIn();
    const secret = await addApp();
    const [recovery = ""] = (await page.locator("[role=status] .font-mono").innerText()).split(" ");
    await page.getByText("10 recovery codes are left").waitFor();

    await signOut();
    await signIn();
    await page.getByLabel("Code of your authenticator app").fill("000000");
    await page.getByRole("button", { name: "Sign in", exact: true }).click();
    await page.getByRole("alert").getByText("does not belong to this sign-in").waitFor();
    await page.getByLabel("Code of your authenticator app").fill(generateSync({ secret }));
    await page.getByRole("button", { name: "Sign in", exact: true }).click();
    await heading().waitFor();

    await signOut();
    await signIn();
    await page.getByRole("button", { name: "Use a recovery code" }).click();
    await page.getByLabel("Recovery code").fill(recovery);
    await page.getByRole("button", { name: "Sign in", exact: true }).click();
    await page.getByText("9 recovery codes are left").waitFor();
  });

  it("that its member has lost is removed by an owner, and the member is told", async () => {
    await signIn();
    await addApp();
    await page.getByText("10 recovery codes are left").waitFor();
    await signOut();
    await signIn(OWNER);
    await page.getByRole("heading", { name: `Account of ${OWNER.name}` }).waitFor();
    await page.goto(at("/access"));
    const row = page.locator(`[data-member="${who.name}"]`);
    await row.getByRole("button", { name: "Remove second factor" }).click();
    await row.getByLabel("Your password").fill("a guess of mine");
    await row.getByRole("button", { name: `Remove second factor of ${who.name}` }).click();
    await page.getByRole("alert").getByText("This is not your password").waitFor();
    await row.getByLabel("Your password").fill(OWNER.password);
    await row.getByRole("button", { name: `Remove second factor of ${who.name}` }).click();
    await row.getByText("with second factor").waitFor({ state: "detached" });
    expect(await row.getByRole("button", { name: "Remove second factor" }).count()).toBe(0);
    await signOut();
    await signIn();
    await page.getByText(`${OWNER.name} removed your second factor`).waitFor();
  });
});

describe("a role that needs a second factor", () => {
  it("opens the account and nothing else until it is there", async () => {
    await world.client.saveTeamRules({ secondFactorFor: ["operator"] });
    await giveAuthenticator();
    await signIn();
    await page.getByRole("alert").getByText("Your role needs a second factor").waitFor();
    expect(await page.getByRole("navigation").count()).toBe(0);
    const passkeys = page.getByRole("region", { name: "Passkeys" });
    await passkeys.getByLabel("Name of the passkey").fill("my phone");
    await passkeys.getByLabel("Your password").fill(who.password);
    await passkeys.getByRole("button", { name: "Add passkey" }).click();
    await page.getByRole("navigation", { name: "Pages" }).waitFor();
    await world.client.saveTeamRules({ secondFactorFor: [] });
  });
});

describe("a sign-in of long ago", () => {
  const age = () => world.pool.query("update session set created_at = now() - interval '1 hour'");
  const again = () => page.getByRole("heading", { name: `Sign in again, ${OWNER.name}` });
  const signInAt = async (place: string) => {
    await signIn(OWNER);
    await page.getByRole("heading", { name: `Account of ${OWNER.name}` }).waitFor();
    await page.goto(at(place));
  };
  const createKeyLate = async () => {
    await signInAt("/access");
    const create = page.getByRole("button", { name: "Create key" });
    await create.waitFor();
    await age();
    await page.getByLabel("Name of the new key").fill("laptop");
    await create.click();
    await again().waitFor();
  };

  it("is asked for once more before a key is created, and the key is created then", async () => {
    await createKeyLate();
    await page.getByLabel("Password", { exact: true }).fill("a guess of mine");
    await page.getByRole("button", { name: "Sign in", exact: true }).click();
    await page.getByRole("alert").getByText("No member has this name").waitFor();
    expect((await world.client.keys()).some(({ name }) => name === "laptop")).toBe(false);
    await page.getByLabel("Password", { exact: true }).fill(OWNER.password);
    await page.getByRole("button", { name: "Sign in", exact: true }).click();
    await page.getByText(/^brk_/).waitFor();
    await again().waitFor({ state: "detached" });
  });

  it("creates nothing where nobody signs in again, and says so", async () => {
    await createKeyLate();
    await page.getByRole("button", { name: "Cancel" }).click();
    await page.getByRole("alert").getByText("This needs your password").waitFor();
  });

  it("is asked for once more before the log is exported", async () => {
    await world.client.ask({ target: "wren/porch", action: "on" });
    await signInAt("/log");
    await page.getByRole("link", { name: "CSV" }).waitFor();
    await age();
    await page.getByRole("link", { name: "CSV" }).click();
    await again().waitFor();
    await page.getByLabel("Password", { exact: true }).fill(OWNER.password);
    const download = page.waitForEvent("download");
    await page.getByRole("button", { name: "Sign in", exact: true }).click();
    expect((await download).suggestedFilename()).toMatch(/\.csv$/);
  });
});

describe("a reset link", () => {
  it("is made by an owner, takes a good password, and works once", async () => {
    const link = await world.client.resetMember(who.name);
    await page.goto(at(link.path));
    await page.getByLabel("New password").fill("password1234");
    await page.getByRole("button", { name: "Save password" }).click();
    await page.getByRole("alert").getByText("guessed soon").waitFor();
    await page.getByLabel("New password").fill("nine slow ferries hum");
    await page.getByRole("button", { name: "Save password" }).click();
    await page.getByRole("heading", { name: "Password saved" }).waitFor();
    await page.goto(at(link.path));
    await page.reload();
    await page.getByRole("alert").getByText("used before").waitFor();
    await signIn({ ...who, password: "nine slow ferries hum" });
    await heading().waitFor();
  });
});

describe("sessions", () => {
  it("are shown with where they are, and ended from here", async () => {
    await signIn();
    await heading().waitFor();
    const other = await browser.newContext();
    const elsewhere = await other.newPage();
    await elsewhere.goto(at("/account"));
    await elsewhere.getByLabel("Name", { exact: true }).fill(who.name);
    await elsewhere.getByLabel("Password", { exact: true }).fill(who.password);
    await elsewhere.getByRole("button", { name: "Sign in", exact: true }).click();
    await elsewhere.getByRole("heading", { name: `Account of ${who.name}` }).waitFor();
    await page.reload();
    await page.getByRole("button", { name: "End session" }).click();
    await page.getByRole("button", { name: "End this session" }).click();
    await page.getByRole("button", { name: "End session" }).waitFor({ state: "detached" });
    await elsewhere.reload();
    await elsewhere.getByRole("heading", { name: "Sign in" }).waitFor();
    await other.close();
  });
});
