/** An accessibility engine looks at every page, in light and dark, on a laptop and on a phone, and finds nothing. */

import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { fileURLToPath } from "node:url";
import type { AxeResults } from "axe-core";
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { openBrowser } from "./support/browser.ts";

const AXE = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");

let world: World;
let browser: Browser;
const panelKeys = { open: "", locked: "" };

async function sharePanel(slug: string, settings: object): Promise<string> {
  const inlet = { slug, name: slug, kind: "panel" as const, site: world.site, settings: { ...settings } };
  await world.client.saveInlet(inlet, 0);
  return (await world.client.addKey({ name: "tablet", inlet: slug })).key;
}

beforeAll(async () => {
  world = await createWorld({ consoleDir: fileURLToPath(new URL("../dist", import.meta.url)) });
  await world.board("wren");
  await (await world.board("finch")).setFault("refusing");
  await world.ask("wren/porch", "on");
  await world.ask("finch/porch", "on");
  const items = [
    { heading: "Lights" },
    { show: "wren/porch" },
    { show: "finch/porch", name: "Porch in Finch" },
    { show: "wren/hall", acts: false },
  ];
  panelKeys.open = await sharePanel("kitchen", { items });
  panelKeys.locked = await sharePanel("locked", { items, pin: "2580" });
  browser = await openBrowser();
});
afterAll(async () => {
  await browser.close();
  await world.stop();
});

async function violations(page: Page): Promise<string[]> {
  await page.evaluate(AXE);
  const { violations } = await page.evaluate<AxeResults>("axe.run()");
  return violations.map(
    ({ id, nodes }) =>
      `${id}: ${nodes
        .map((node) => node.html)
        .slice(0, 3)
        .join(" | ")}`,
  );
}

describe.each([
  ["light", "laptop", { width: 1280, height: 800 }],
  ["dark", "laptop", { width: 1280, height: 800 }],
  ["light", "phone", { width: 390, height: 844 }],
] as const)("%s, on a %s", (colorScheme, _name, viewport) => {
  it("sign-in", async () => {
    const page = await browser.newPage({ viewport, colorScheme });
    await page.goto(world.service.url);
    await page.getByRole("button", { name: "Sign in" }).waitFor();
    expect(await violations(page)).toEqual([]);
    await page.close();
  });

  it("a panel, and what asks for its PIN", async () => {
    const page = await browser.newPage({ viewport, colorScheme });
    await page.goto(`${world.service.url}/panel/kitchen#${panelKeys.open}`);
    await page.getByRole("heading", { name: "Porch lantern" }).waitFor();
    expect(await violations(page)).toEqual([]);
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(viewport.width);
    await page.goto(`${world.service.url}/panel/locked#${panelKeys.locked}`);
    await page.getByRole("heading", { name: "Enter the PIN" }).waitFor();
    expect(await violations(page)).toEqual([]);
    await page.close();
  });

  it("board, trace and log, and nothing scrolls sideways", async () => {
    const page = await browser.newPage({
      viewport,
      colorScheme,
      extraHTTPHeaders: { authorization: `Bearer ${world.key}` },
    });
    await page.goto(world.service.url);
    await page.getByRole("link", { name: /^Trace of the last command to Porch lantern, Finch/ }).waitFor();
    expect(await violations(page)).toEqual([]);
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(viewport.width);
    await page.getByRole("link", { name: /^Trace of the last command to Porch lantern, Finch/ }).click();
    await page.getByText("Refused by the device.").waitFor();
    expect(await violations(page)).toEqual([]);
    await page.keyboard.press("Escape");
    await page.getByRole("complementary", { name: "Trace" }).waitFor({ state: "detached" });
    await page.goto(`${world.service.url}/log`);
    await page.locator("[data-request]").first().waitFor();
    expect(await violations(page)).toEqual([]);
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(viewport.width);
    for (const [path, heading, ready] of [
      [`/history/${world.site}/finch/porch`, "Porch lantern, Finch: history of the last 24 hours", null],
      ["/alerts", "Alerts", () => page.locator("[data-alert]").first().waitFor()],
      ["/statistics", "Statistics", () => page.getByText("100 %").first().waitFor()],
      ["/map", "Map", () => page.getByRole("region", { name: "What reaches what" }).waitFor()],
      ["/inlets", "Inlets", () => page.getByRole("button", { name: "Add inlet" }).click()],
      ["/inlets/hall-tablet", "Hall tablet", null],
      ["/inlets/kitchen", "kitchen", () => page.getByRole("form", { name: "Add an item" }).waitFor()],
      ["/devices", "Devices", () => page.getByRole("button", { name: "Add device" }).click()],
      ["/devices/profiles", "Profiles", () => page.getByRole("region", { name: "Commands" }).waitFor()],
      [`/devices/${world.site}/finch`, "board under the stairs", null],
      [`/sites/${world.site}`, "Alder Row", () => page.getByRole("button", { name: "Edit as YAML" }).click()],
      ["/devices/translators", "Translator plans", () => page.getByLabel("Plan, YAML").waitFor()],
      [`/wire?filter=${world.site}/finch/%23`, "Wire", () => page.getByText("online, retained").waitFor()],
      ["/notifications", "Notifications", () => page.getByRole("button", { name: "Add a notification" }).click()],
      ["/access", "Access", () => page.locator("[data-member]").first().waitFor()],
    ] as const) {
      await page.goto(world.service.url + path);
      await page.getByRole("heading", { name: heading, exact: true }).waitFor();
      await ready?.();
      expect(await violations(page)).toEqual([]);
      expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(viewport.width);
    }
    await page.close();
  });
});
