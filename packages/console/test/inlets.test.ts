/** Inlets in a real browser: made paused, rehearsed while they are typed, saved, given a key, and let loose. */
import { fileURLToPath } from "node:url";
import type { Browser, Page } from "playwright-core";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from "vitest";
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
  });

  it("is removed only when that is said twice", async () => {
    await page.goto(`${world.service.url}/inlets/porch-chat`);
    await page.getByRole("button", { name: "Remove" }).click();
    await page.getByRole("button", { name: "Remove porch-chat and its keys" }).click();
    await page.getByRole("heading", { name: "Inlets" }).waitFor();
    await page.getByRole("link", { name: "Porch chat" }).waitFor({ state: "detached" });
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
});
