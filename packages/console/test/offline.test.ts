/** The console where the service is not: what a phone in a plant room shows, and what it must not claim. */
import { fileURLToPath } from "node:url";
import type { Browser, Locator, Page } from "playwright-core";
import { afterAll, afterEach, beforeAll, beforeEach, expect, it } from "vitest";
import { createWorld, OWNER, type World } from "../../service/test/support/world.ts";
import { openBrowser } from "./support/browser.ts";
import { withoutService } from "./support/without-service.ts";

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

/** A phone on which the console was open for long enough to be kept. */
beforeEach(async () => {
  page = await browser.newPage({ viewport: { width: 390, height: 844 } });
  await page.goto(world.service.url);
  await page.getByLabel("Name", { exact: true }).fill(OWNER.name);
  await page.getByLabel("Password").fill(OWNER.password);
  await page.getByRole("button", { name: "Sign in" }).click();
  await press("On");
  await row()
    .getByRole("img", { name: /^confirmed/ })
    .waitFor();
  await page.evaluate(() => navigator.serviceWorker.ready);
  await page.waitForFunction(async () => (await caches.match("/last-board")) !== undefined);
});
afterEach(() => page.close());

const address = () => world.address("wren/porch");
const row = (): Locator => page.locator(`[data-channel="${address()}"]`);
const press = (name: "On" | "Off") => row().getByRole("button", { name, exact: true }).click();

it("shows no state as known while the connection is lost, and a press says that its fate is unknown", async () => {
  await withoutService(world, async () => {
    await page.getByText("No connection to the service.").waitFor();
    await row()
      .getByText(/not heard again since/i)
      .waitFor();
    expect(await row().getByRole("button", { name: "On", exact: true }).getAttribute("aria-pressed")).not.toBe("true");
    await press("Off");
    await row().getByRole("alert").getByText("It is unknown whether the request arrived").waitFor();
  });
  await page.getByText("No connection to the service.").waitFor({ state: "detached" });
  // Nothing was kept and sent later.
  await row().getByText("On", { exact: true }).first().waitFor();
  const { requests } = await world.client.log({});
  expect(requests.filter(({ action }) => action === "off")).toEqual([]);
});

it("opens without the service, says how old the last states are, and goes on when it is back", async () => {
  await withoutService(world, async () => {
    await page.goto(`${world.service.url}/log`);
    await page.getByRole("heading", { name: "No connection to the service" }).waitFor();
    await page.getByText(/These states are .+ old\./).waitFor();
    await page.getByText("was on", { exact: false }).first().waitFor();
    expect(await page.getByRole("button", { name: "On", exact: true }).count()).toBe(0);
  });
  await page.getByRole("button", { name: "Try again" }).click();
  await page.getByRole("heading", { name: "Request log" }).waitFor();
});

it("keeps nothing on the device once the member has signed out", async () => {
  await page.getByRole("button", { name: "More" }).click();
  await page.locator("#more-pages").getByRole("button", { name: "Sign out" }).click();
  await page.getByRole("button", { name: "Sign in", exact: true }).waitFor();
  await withoutService(world, async () => {
    await page.goto(`${world.service.url}/board`);
    await page.getByText("No states are stored on this device.").waitFor();
  });
});

it("forgets what it kept once the service says that the session is over", async () => {
  await page.context().clearCookies();
  await page.reload();
  await page.getByRole("button", { name: "Sign in", exact: true }).waitFor();
  await page.waitForFunction(async () => (await caches.match("/last-board")) === undefined);
});

it("can be installed: a manifest with icons, and a worker that keeps no answer of the service", async () => {
  const manifest = await page.evaluate(async () => (await fetch("/console.webmanifest")).json());
  expect(manifest).toMatchObject({ name: "Bold Relay", display: "standalone", start_url: "/board" });
  for (const { src } of manifest.icons) expect((await page.request.get(`${world.service.url}${src}`)).ok()).toBe(true);
  const kept = await page.evaluate(async () => {
    const stores = await Promise.all((await caches.keys()).map(async (name) => (await caches.open(name)).keys()));
    return stores.flat().map(({ url }) => new URL(url).pathname);
  });
  expect(kept.filter((path) => path.startsWith("/api/"))).toEqual([]);
  expect(kept).toContain("/index.html");
});
