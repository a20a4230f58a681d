/** The page Map in a real browser: what can switch a channel, found by its name and from its history, and what an element reaches. */
import { fileURLToPath } from "node:url";
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, expect, it } from "vitest";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { openBrowser } from "./support/browser.ts";

let world: World;
let browser: Browser;
let page: Page;
const errors: string[] = [];

beforeAll(async () => {
  world = await createWorld({ consoleDir: fileURLToPath(new URL("../dist", import.meta.url)) });
  await world.board("wren");
  const routes = [
    { name: "second button", when: { words: "two" }, do: { target: world.address("finch/path"), action: "toggle" } },
    { name: "first button", when: { words: "one" }, do: { target: world.address("wren/porch"), action: "on" } },
  ];
  const inlet = { slug: "buttons", name: "Wall buttons", kind: "hook", site: world.site, routes } as const;
  await world.client.saveInlet(inlet, 0);
  await world.client.addKey({ name: "panel", inlet: "buttons" });
  await world.ask("wren/porch", "on");
  await world.pool.query("update way_use set last_at = now() - interval '8 days' where way = ''");
  browser = await openBrowser();
  page = await browser.newPage({
    viewport: { width: 1280, height: 800 },
    extraHTTPHeaders: { authorization: `Bearer ${world.key}` },
  });
  page.on("pageerror", (error) => errors.push(error.message));
});
afterAll(async () => {
  await browser.close();
  await world.stop();
});

const drawing = () => page.getByRole("region", { name: "Drawing" });
const element = (id: string) => drawing().locator(`[data-element="${id}"]`);

it("finds everything that can switch a channel by its name, with who did so last", async () => {
  await page.goto(`${world.service.url}/map`);
  await page.getByLabel("Find", { exact: true }).fill("porch lantern, wren");
  await page.getByRole("button", { name: "Show", exact: true }).click();
  await page.getByRole("heading", { name: "Porch lantern, Wren" }).waitFor();
  await element("route:buttons/2").waitFor();
  expect(await element("route:buttons/1").count()).toBe(0);
  const table = page.getByRole("region", { name: "Everything that can switch it" });
  await table.getByRole("row", { name: /Members at Alder Row.*once, last .* by Ines/ }).waitFor();
  await table
    .getByRole("row", { name: /Route 2 “first button” of Wall buttons.*on.*directly.*none counted/ })
    .waitFor();
  await page.getByText("No lock-out, no interlock and no offline device stands in the way now.").waitFor();
});

it("says what stands in the way", async () => {
  const { id } = await world.client.lockOut({ target: world.address("wren/porch") });
  await page.goto(`${world.service.url}/history/${world.address("wren/porch")}`);
  await page.getByRole("link", { name: "What can switch it" }).click();
  await page.getByText("Locked out by Ines.").waitFor();
  await world.client.release(id);
});

it("shows what an inlet reaches, and what a route does, by pressing it", async () => {
  await page.goto(`${world.service.url}/inlets/buttons`);
  await page.getByRole("link", { name: "Show on map" }).click();
  await page.getByRole("heading", { name: "Wall buttons" }).waitFor();
  await element("route:buttons/1").click();
  await page.getByRole("heading", { name: "second button" }).waitFor();
  await element(`channel:${world.address("finch/path")}`).waitFor();
  expect(await drawing().locator('[data-element^="channel:"]').count()).toBe(1);
  await page.getByRole("row", { name: /Key “panel”.*toggle.*Path lights, Finch/ }).waitFor();
});

it("lists what was never used, and leads to it", async () => {
  await page.getByRole("button", { name: "Show everything" }).click();
  const findings = page.getByRole("region", { name: "Findings" });
  await findings.getByRole("row", { name: /Unused.*second button/ }).waitFor();
  await findings.getByRole("button", { name: "Route 1 “second button” of Wall buttons" }).click();
  await page.getByRole("heading", { name: "second button" }).waitFor();
  expect(errors).toEqual([]);
});

it("says where nothing has a name", async () => {
  await page.getByLabel("Find", { exact: true }).fill("porch lanterm, wren");
  await page.getByRole("button", { name: "Show", exact: true }).click();
  await page
    .getByRole("alert")
    .getByText(`Nearest: ${world.address("wren/porch")}`)
    .waitFor();
});
