/** Inlets in a real browser: made paused, rehearsed while they are typed, saved, given a key, and let loose. */
import { randomBytes } from "node:crypto";
import { fileURLToPath } from "node:url";
import type { Browser, Page } from "playwright-core";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { poll } from "../../service/test/support/until.ts";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { openBrowser, openSignedIn, textOf } from "./support/browser.ts";

let world: World;
let browser: Browser;
let page: Page;

beforeAll(async () => {
  world = await createWorld({
    consoleDir: fileURLToPath(new URL("../dist", import.meta.url)),
    environment: { BOLD_RELAY_SECRETS_KEY: randomBytes(32).toString("base64") },
  });
  await world.board("wren");
  browser = await openBrowser();
});
afterAll(async () => {
  await browser.close();
  await world.stop();
});
beforeEach(async () => {
  page = await openSignedIn(browser, world);
});
afterEach(() => page.close());

describe("a link for people", () => {
  it("shows what it does, and does it when its button is pressed", async () => {
    await world.client.saveInlet({ slug: "front-door", name: "Front door", kind: "hook", site: world.site }, 0);
    await world.client.makeSecret("front-door");
    const { path } = await world.client.makeLink("front-door", { phrase: "hall light in wren on" });
    const guest = await browser.newPage();
    await guest.goto(world.service.url + path);
    await guest.getByRole("heading", { name: "Front door" }).waitFor();
    await guest.getByRole("button", { name: "hall light in wren on" }).click();
    await guest.getByRole("status").getByText("Hall light, Wren → on: confirmed.").waitFor();
    await guest.goto(`${world.service.url + path}x`);
    await guest.getByRole("status").getByText("This link is not valid any more.").waitFor();
    await guest.close();
  });
});

describe("an inlet", () => {
  it("is made, rehearsed with changes that are not saved yet, saved, keyed, and takes requests", async () => {
    await page.goto(`${world.service.url}/inlets`);
    await page.getByRole("button", { name: "Add inlet" }).click();
    const form = page.getByRole("form", { name: "New inlet" });
    await form.getByLabel("Name", { exact: true }).fill("Porch chat");
    await form.getByLabel("Identifier", { exact: true }).fill("porch-chat");
    await form.getByRole("button", { name: "Add inlet" }).click();
    await page.getByRole("heading", { name: "Porch chat" }).waitFor();
    await page.getByText("Would send commands.").waitFor();

    await page.getByLabel("Sender").fill("eve");
    await page.getByLabel("Room", { exact: true }).fill("street");
    await page.getByText("Sorry eve, you may not switch anything here.").waitFor();
    const described = page.getByLabel("Description of the inlet, YAML");
    const text = (await textOf(described)).replace("porch-room/*", "street/*");
    await described.fill(text);
    await page.getByText("Would send commands.").waitFor();
    await described.fill(text.replace('phrase: "{text}"', 'phrase: "{lamp} on"'));
    await page.getByText("has a hole {lamp}").waitFor();
    await described.fill("routes: [");
    await page.getByRole("alert").first().waitFor();
    await described.fill(text);
    await page.getByRole("button", { name: "Save" }).click();
    await page.getByText("Version 2.").waitFor();

    await page.getByRole("button", { name: "Resume inlet" }).click();
    await page.getByText("Version 3.").waitFor();
    await page.getByRole("button", { name: "Create key" }).click();
    const key = await page.getByText(/^brk_/).innerText();
    const answer = await fetch(`${world.service.url}/in/porch-chat`, {
      method: "POST",
      headers: { authorization: `Bearer ${key}`, "content-type": "application/json" },
      body: JSON.stringify({ text: "hall light in wren on", sender: "eve", room: "street" }),
    });
    expect(await answer.json()).toMatchObject({ outcome: "delivered", reply: "Hall light, Wren → on: confirmed." });

    await page.goto(`${world.service.url}/log`);
    await page
      .locator("[data-request]")
      .first()
      .getByRole("link", { name: /^Trace/ })
      .click();
    const trace = page.getByRole("complementary", { name: "Trace" });
    await trace.getByText("“hall light in wren on”, matched by route 1").waitFor();
    await trace.getByText("hall light in wren → Hall light, Wren").waitFor();
    await trace.getByText("Answered after").waitFor();
    await trace.getByText("“Hall light, Wren → on: confirmed.”").waitFor();
  });

  it("is tried for real with a key, and its past arrivals by what is typed", async () => {
    const { key } = await world.client.addKey({ name: "try", inlet: "porch-chat" });
    await page.goto(`${world.service.url}/inlets/porch-chat`);
    await page.getByLabel("Sender").fill("eve");
    await page.getByLabel("Room", { exact: true }).fill("street");
    await page.getByLabel("Chat message").fill("hall light in wren off");
    await page.getByText("Would send commands.").waitFor();
    await page.getByLabel("Key of the inlet").fill(key);
    await page.getByRole("button", { name: "Send test request" }).click();
    await page.getByRole("button", { name: /^Send it/ }).click();
    await page.getByText(/^200 .*Hall light, Wren → off: confirmed/).waitFor();
    const trace = page.getByRole("link", { name: "open trace" });
    expect(await trace.getAttribute("href")).toMatch(/^\/log\/trace\/[0-9a-f-]{36}$/);

    const described = page.getByLabel("Description of the inlet, YAML");
    await described.fill((await textOf(described)).replace("phrase: true", "words: good night"));
    await page.getByText("Save the inlet before you send a test request.").waitFor();
    await page.getByRole("button", { name: /^Rehearse the last/ }).click();
    await page.getByText("2 looked at. 2 would be taken otherwise.").waitFor();
    const row = page.getByRole("row", { name: /hall light in wren off/ });
    await row.getByText("Hall light, Wren → off (route 1)").waitFor();
    await row.getByText("none of its routes matches").waitFor();
  });

  it("is removed only when that is said twice", async () => {
    await page.goto(`${world.service.url}/inlets/porch-chat`);
    await page.getByRole("button", { name: "Delete inlet" }).click();
    await page.getByRole("button", { name: "Delete porch-chat and its keys" }).click();
    await page.getByRole("heading", { name: "Inlets" }).waitFor();
    await page.getByRole("link", { name: "Porch chat" }).waitFor({ state: "detached" });
  });
});

describe("a notification", () => {
  it("is made, tells what happens, is changed, paused and removed", async () => {
    await page.goto(`${world.service.url}/notifications`);
    await page.getByRole("button", { name: "Add a notification" }).click();
    const form = page.getByRole("form", { name: "New notification" });
    await form.getByLabel("Name", { exact: true }).fill("Night desk");
    await form.getByLabel("Identifier", { exact: true }).fill("night-desk");
    await form.getByLabel("Sent to").selectOption("topic");
    await form.getByLabel("Topic", { exact: true }).fill(world.address("wren/porch/do"));
    await form.getByLabel("outcome: delivered").click();
    await form.getByRole("button", { name: "Add notification" }).click();
    await form.getByText("which would act on it").waitFor();
    await form.getByLabel("Topic", { exact: true }).fill(`${world.site}-desk/told`);
    await form.getByRole("button", { name: "Add notification" }).click();
    const entry = page.getByRole("region", { name: "Night desk" });
    await entry.getByText(/^Events: outcomes \(.*delivered.*\), alerts/).waitFor();

    const { id } = await world.ask("wren/hall", "toggle");
    await entry.getByRole("button", { name: "Delivery log" }).click();
    await entry.getByRole("row", { name: new RegExp(`outcome ${id} yes`) }).waitFor();

    await entry.getByRole("button", { name: "Edit notification" }).click();
    const change = page.getByRole("form", { name: "Edit Night desk" });
    await change.getByLabel("every change of a channel").click();
    await change.getByRole("button", { name: "Save" }).click();
    await entry.getByText(/, changes, alerts/).waitFor();
    await entry.getByRole("button", { name: "Pause notification" }).click();
    await entry.getByText("paused").waitFor();
    await entry.getByRole("button", { name: "Delete notification" }).click();
    await entry.getByRole("button", { name: "Delete night-desk and its log" }).click();
    await page.getByText("No notifications yet.").waitFor();
  });
});

describe("an alert", () => {
  it("is counted beside every page, assigned, noted, resolved, and reopened", async () => {
    const wren = await world.board("wren");
    await wren.setFault("refusing");
    await world.ask("wren/path", "on");
    await page.goto(`${world.service.url}/board`);
    await page.getByRole("link", { name: "Alerts 1" }).click();
    const alert = page.locator('[data-alert="failing"]');
    await alert.getByText("Commands to Path lights, Wren fail").waitFor();
    await alert.getByRole("button", { name: "Assign to me" }).click();
    await alert.getByText("assigned to you").waitFor();
    await alert.getByRole("button", { name: "Add note" }).click();
    await alert.getByLabel("Note for the team").fill("<b>fuse</b> ordered");
    await alert.getByRole("button", { name: "Save note" }).click();
    await alert.getByText("<b>fuse</b> ordered").waitFor();
    await alert.getByRole("button", { name: "Resolve" }).click();
    await page.getByText("No open alerts.").waitFor();
    await page.getByRole("link", { name: "Alerts", exact: true }).waitFor();
    await page.getByRole("region", { name: "Hidden" }).getByRole("button", { name: "Reopen" }).click();
    await page.getByRole("link", { name: "Alerts 1" }).waitFor();
    await wren.setFault("none");
    await world.ask("wren/path", "on");
    await alert.waitFor({ state: "detached" });
  });

  it("that came up before the page began to listen is counted too", async () => {
    const wren = await world.board("wren");
    let listen = () => {};
    const held = new Promise<void>((resolve) => {
      listen = resolve;
    });
    await page.route("**/api/v1/live", async (route) => {
      await held;
      await route.continue();
    });
    const listed = page.waitForResponse((response) => response.url().endsWith("/api/v1/alerts"));
    await page.goto(`${world.service.url}/board`);
    await (await listed).finished();
    await wren.setFault("refusing");
    await world.ask("wren/path", "on");
    await poll(
      () => world.client.alerts(),
      (alerts) => alerts.some(({ kind }) => kind === "failing"),
    );
    listen();
    await page.getByRole("link", { name: /^Alerts \d/ }).waitFor();
    await wren.setFault("none");
  });
});
