/** A sensor's own page: its curve over a day, a week or a month, in a real browser. */
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { fileURLToPath } from "node:url";
import { HOUR_MS, smallestIdAt } from "@bold-relay/core";
import type { AxeResults } from "axe-core";
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, expect, it } from "vitest";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { openBrowser } from "./support/browser.ts";

let world: World;
let browser: Browser;
let page: Page;

beforeAll(async () => {
  const channel = { slug: "warmth", name: "Warmth", kind: "sensor", unit: "°C" } as const;
  world = await createWorld({
    consoleDir: fileURLToPath(new URL("../dist", import.meta.url)),
    describe: (slug) => ({
      slug,
      name: "Glasshouse",
      rooms: [
        {
          slug: "bay",
          name: "Bay",
          devices: [{ slug: "air", name: "air", profile: "reporting", channels: [channel] }],
        },
      ],
    }),
  });
  for (let hours = 1; hours < 60; hours += 1) {
    const at = Date.now() - hours * HOUR_MS;
    await world.pool.query(
      `insert into state_change (id, channel_id, at, from_value, to_value, cause) select $1, id, to_timestamp($2 / 1000.0), null, $3, 'unknown' from channel`,
      [smallestIdAt(at), at, String(hours <= 24 ? 20 + (hours % 5) : 5)],
    );
  }
  browser = await openBrowser();
  page = await browser.newPage({ extraHTTPHeaders: { authorization: `Bearer ${world.key}` } });
});
afterAll(async () => {
  await browser.close();
  await world.stop();
});

/** How many points of the curve's canvas are drawn on. */
function drawn(): Promise<number> {
  return page.locator(".reading-chart canvas").evaluate((canvas: HTMLCanvasElement) => {
    const { data } = canvas.getContext("2d")?.getImageData(0, 0, canvas.width, canvas.height) ?? { data: [] };
    return data.filter((value, index) => index % 4 === 3 && value > 0).length;
  });
}

it("draws the curve of a day, then of a week, and says from where to where it went", async () => {
  await page.goto(`${world.service.url}/history/${world.address("air/warmth")}`);
  await page.getByText(/Warmth, Bay: 21 °C, read 60 min ago|Warmth, Bay: 21 °C, read 1 h ago/).waitFor();
  await page.getByText("20 °C to 24 °C").waitFor();
  await page.locator(".reading-chart canvas").waitFor();
  expect(await drawn()).toBeGreaterThan(1_000);
  await page.getByRole("button", { name: "7 days" }).click();
  await page.getByText("5 °C to 24 °C").waitFor();
  expect(await drawn()).toBeGreaterThan(1_000);
  // A reading is neither on nor off.
  expect(await page.getByText(/\bon for\b|never on/).count()).toBe(0);
});

it("is found to be without fault by an accessibility engine", async () => {
  await page.evaluate(readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8"));
  const { violations } = await page.evaluate<AxeResults>("axe.run()");
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([]);
});
