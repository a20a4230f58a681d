/** Shards under *Access*, and what every page says while an instance does not answer: in a real browser. */
import { fileURLToPath } from "node:url";
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, expect, it } from "vitest";
import { poll } from "../../service/test/support/until.ts";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { openBrowser } from "./support/browser.ts";

let world: World;
let browser: Browser;
let page: Page;
const errors: string[] = [];

beforeAll(async () => {
  world = await createWorld({ consoleDir: fileURLToPath(new URL("../dist", import.meta.url)) });
  await world.client.changeShardCount(3);
  await world.board("wren");
  browser = await openBrowser();
  page = await browser.newPage({
    viewport: { width: 1280, height: 800 },
    extraHTTPHeaders: { authorization: `Bearer ${world.key}` },
    // What the page is answered is altered on its way in the last test.
    serviceWorkers: "block",
  });
  page.on("pageerror", (error) => errors.push(error.message));
});
afterAll(async () => {
  await browser.close();
  await world.stop();
});

const shardOf = async (site: string) =>
  (await world.client.cluster()).shards.find(({ sites }) => sites.includes(site))?.shard;

it("a site is moved to another shard, and is switched there", async () => {
  await page.goto(`${world.service.url}/access`);
  const form = page.getByRole("form", { name: "Move site" });
  const move = form.getByRole("button", { name: "Move site" });
  await form.getByLabel("Site").fill("no-such-site");
  await form.getByLabel("To shard").selectOption("2");
  expect(await move.isDisabled()).toBe(true);

  await form.getByLabel("Site").fill(world.site);
  await form.getByText(`${world.site} is in shard 0.`).waitFor();
  await form.getByLabel("To shard").selectOption("2");
  await move.click();
  await form.getByText(`Moved ${world.site} to shard 2.`).waitFor();
  await page.locator("[data-shard='2']").getByText(world.site).waitFor();
  expect(await shardOf(world.site)).toBe(2);
  expect(await world.ask("wren/porch", "on")).toMatchObject({ outcome: "delivered" });
});

it("a leader is chosen for a shard, and any instance may lead it again", async () => {
  const name = (await world.client.cluster()).instances[0]?.name ?? "";
  const chosen = async () => (await world.client.cluster()).shards[1]?.chosen;
  const select = page.getByLabel("Chosen leader of shard 1");
  await select.selectOption(name);
  await poll(chosen, (one) => one === name);
  await select.selectOption("");
  await poll(chosen, (one) => one === null);
});

it("instances that do not answer are named on every page for as long as they do not", async () => {
  let missing: string[] = ["east"];
  await page.route("**/api/v1/status", async (route) => {
    const answer = await route.fetch();
    await route.fulfill({ response: answer, json: { ...(await answer.json()), missing } });
  });
  for (const place of ["/board", "/wire", "/inlets", "/alerts"]) {
    await page.goto(world.service.url + place);
    await page
      .getByRole("alert")
      .getByText("No answer from the instance east. Counts and published commands")
      .waitFor();
  }
  missing = ["east", "south"];
  await page.reload();
  await page.getByRole("alert").getByText("No answer from the instances east, south.").waitFor();
  missing = [];
  await page.reload();
  await page.getByRole("heading", { name: "Alerts" }).waitFor();
  expect(await page.getByText("No answer from").count()).toBe(0);
  expect(errors).toEqual([]);
});
