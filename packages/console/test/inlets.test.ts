/** Inlets in a real browser: made paused, rehearsed while they are typed, saved, given a key, and let loose. */
import { fileURLToPath } from "node:url";
import type { Browser, Page } from "playwright-core";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { poll } from "../../service/test/support/until.ts";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { openBrowser } from "./support/browser.ts";

let world: World;
let browser: Browser;
let page: Page;

beforeAll(async () => {
  world = await createWorld({ consoleDir: fileURLToPath(new URL("../dist", import.meta.url)) });
  await world.board("wren");
  browser = await openBrowser();
});
afterAll(async () => {
  await browser.close();
  await world.stop();
});
beforeEach(async () => {
  page = await browser.newPage({ extraHTTPHeaders: { authorization: `Bearer ${world.key}` } });
});
afterEach(() => page.close());

describe("an inlet", () => {
  it("is made, rehearsed with changes that are not saved yet, saved, keyed, and takes requests", async () => {
    await page.goto(`${world.service.url}/inlets`);
    await page.getByRole("button", { name: "Add an inlet" }).click();
    const form = page.getByRole("form", { name: "A new inlet" });
    await form.getByLabel("What people call it").fill("Porch chat");
    await form.getByLabel("Its name in addresses").fill("porch-chat");
    await form.getByRole("button", { name: "Make it" }).click();
    await page.getByRole("heading", { name: "Porch chat" }).waitFor();
    await page.getByText("It would act.").waitFor();

    await page.getByLabel("Sender").fill("eve");
    await page.getByLabel("Room", { exact: true }).fill("street");
    await page.getByText("Sorry eve, you may not switch anything here.").waitFor();
    const described = page.getByLabel("Description of the inlet, YAML");
    const text = (await described.inputValue()).replace("porch-room/*", "street/*");
    await described.fill(text);
    await page.getByText("It would act.").waitFor();
    await described.fill(text.replace('phrase: "{text}"', 'phrase: "{lamp} on"'));
    await page.getByText("has a hole {lamp}").waitFor();
    await described.fill("routes: [");
    await page.getByRole("alert").first().waitFor();
    await described.fill(text);
    await page.getByRole("button", { name: "Save" }).click();
    await page.getByText("Version 2.").waitFor();

    await page.getByRole("button", { name: "Let it take requests" }).click();
    await page.getByText("Version 3.").waitFor();
    await page.getByRole("button", { name: "Make a key" }).click();
    const key = await page.getByText(/^brk_/).innerText();
    const answer = await fetch(`${world.service.url}/in/porch-chat`, {
      method: "POST",
      headers: { authorization: `Bearer ${key}`, "content-type": "application/json" },
      body: JSON.stringify({ text: "hall light in wren on", sender: "eve", room: "street" }),
    });
    expect(await answer.json()).toMatchObject({ outcome: "complete", reply: "Hall light, Wren → on: confirmed." });

    await page.goto(`${world.service.url}/deliveries`);
    await page.locator("[data-request]").first().click();
    const trace = page.getByRole("complementary", { name: "Trace" });
    await trace.getByText("“hall light in wren on”, caught by route 1").waitFor();
    await trace.getByText("hall light in wren → Hall light, Wren").waitFor();
    await trace.getByText("Answered after").waitFor();
    await trace.getByText("“Hall light, Wren → on: confirmed.”").waitFor();
  });

  it("is tried for real with a key, and its past arrivals by what is typed", async () => {
    const { key } = await world.client.addKey({ name: "try", inlet: "porch-chat" });
    await page.goto(`${world.service.url}/inlets/porch-chat`);
    await page.getByLabel("Sender").fill("eve");
    await page.getByLabel("Room", { exact: true }).fill("street");
    await page.getByLabel("What somebody writes").fill("hall light in wren off");
    await page.getByText("It would act.").waitFor();
    await page.getByLabel("One of its keys").fill(key);
    await page.getByRole("button", { name: "Try it for real" }).click();
    await page.getByRole("button", { name: /^Do it/ }).click();
    await page.getByText(/^200 .*Hall light, Wren → off: confirmed/).waitFor();
    const trace = page.getByRole("link", { name: "every hop" });
    expect(await trace.getAttribute("href")).toMatch(/^\/deliveries\/trace\/[0-9a-f-]{36}$/);

    const described = page.getByLabel("Description of the inlet, YAML");
    await described.fill((await described.inputValue()).replace("phrase: true", "words: good night"));
    await page.getByText("Save it before you try it for real.").waitFor();
    await page.getByRole("button", { name: /^Rehearse the last/ }).click();
    await page.getByText("2 looked at. 2 would be taken otherwise.").waitFor();
    const row = page.getByRole("row", { name: /hall light in wren off/ });
    await row.getByText("Hall light, Wren → off (route 1)").waitFor();
    await row.getByText("none of its routes catches it").waitFor();
  });

  it("is removed only when that is said twice", async () => {
    await page.goto(`${world.service.url}/inlets/porch-chat`);
    await page.getByRole("button", { name: "Remove" }).click();
    await page.getByRole("button", { name: "Remove porch-chat and its keys" }).click();
    await page.getByRole("heading", { name: "Inlets" }).waitFor();
    await page.getByRole("link", { name: "Porch chat" }).waitFor({ state: "detached" });
  });
});

describe("a notice", () => {
  it("is made, tells what happens, is changed, paused and removed", async () => {
    await page.goto(`${world.service.url}/notices`);
    await page.getByRole("button", { name: "Add a notice" }).click();
    const form = page.getByRole("form", { name: "A new notice" });
    await form.getByLabel("What people call it").fill("Night desk");
    await form.getByLabel("Its name in addresses").fill("night-desk");
    await form.getByLabel("Told by").selectOption("topic");
    await form.getByLabel("Topic", { exact: true }).fill(world.address("wren/porch/do"));
    await form.getByLabel("outcome complete").click();
    await form.getByRole("button", { name: "Make it" }).click();
    await form.getByText("which would act on it").waitFor();
    await form.getByLabel("Topic", { exact: true }).fill(`${world.site}-desk/told`);
    await form.getByRole("button", { name: "Make it" }).click();
    const entry = page.getByRole("region", { name: "Night desk" });
    await entry.getByText(/^Tells of outcomes \(.*complete.*\), attention/).waitFor();

    const { id } = await world.ask("wren/hall", "toggle");
    await entry.getByRole("button", { name: "What was told" }).click();
    await entry.getByRole("row", { name: new RegExp(`outcome ${id} yes`) }).waitFor();

    await entry.getByRole("button", { name: "Change it" }).click();
    const change = page.getByRole("form", { name: "Change Night desk" });
    await change.getByLabel("every change of a channel").click();
    await change.getByRole("button", { name: "Save" }).click();
    await entry.getByText(/, changes, attention/).waitFor();
    await entry.getByRole("button", { name: "Pause it" }).click();
    await entry.getByText("paused").waitFor();
    await entry.getByRole("button", { name: "Remove" }).click();
    await entry.getByRole("button", { name: "Remove night-desk and its log" }).click();
    await page.getByText("Nobody outside is told of anything so far.").waitFor();
  });
});

describe("a matter that needs attention", () => {
  it("is counted beside every page, taken, noted, closed, and shown again", async () => {
    const wren = await world.board("wren");
    await wren.setFault("refusing");
    await world.ask("wren/path", "on");
    await page.goto(`${world.service.url}/board`);
    await page.getByRole("link", { name: "Attention 1" }).click();
    const matter = page.locator('[data-matter="failing"]');
    await matter.getByText("Path lights, Wren does not get there").waitFor();
    await matter.getByRole("button", { name: "Take it" }).click();
    await matter.getByText("taken by you").waitFor();
    await matter.getByRole("button", { name: "Note" }).click();
    await matter.getByLabel("To the others").fill("<b>fuse</b> ordered");
    await matter.getByRole("button", { name: "Note it" }).click();
    await matter.getByText("<b>fuse</b> ordered").waitFor();
    await matter.getByRole("button", { name: "Close" }).click();
    await page.getByText("Nothing needs attention.").waitFor();
    await page.getByRole("link", { name: "Attention", exact: true }).waitFor();
    await page.getByRole("region", { name: "Hidden" }).getByRole("button", { name: "Show it again" }).click();
    await page.getByRole("link", { name: "Attention 1" }).waitFor();
    await wren.setFault("none");
    await world.ask("wren/path", "on");
    await matter.waitFor({ state: "detached" });
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
    const listed = page.waitForResponse((response) => response.url().endsWith("/api/v1/attention"));
    await page.goto(`${world.service.url}/board`);
    await (await listed).finished();
    await wren.setFault("refusing");
    await world.ask("wren/path", "on");
    await poll(
      () => world.client.attention(),
      (matters) => matters.some(({ kind }) => kind === "failing"),
    );
    listen();
    await page.getByRole("link", { name: /^Attention \d/ }).waitFor();
    await wren.setFault("none");
  });
});
