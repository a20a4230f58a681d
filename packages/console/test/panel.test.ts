/** Panels in the browser: made in the console without YAML, shared by a link, used by somebody who has nothing else. */
import { fileURLToPath } from "node:url";
import { createPanelClient } from "@bold-relay/api";
import type { InletDescription } from "@bold-relay/core";
import type { Browser, BrowserContext, Page } from "playwright-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { channelNow, poll } from "../../service/test/support/until.ts";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { openBrowser, openSignedIn } from "./support/browser.ts";
import { withoutService } from "./support/without-service.ts";

let world: World;
let browser: Browser;
let phone: BrowserContext;
let page: Page;
let key: string;

const PHONE = { viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true };
const tile = (name: string, on: Page = page) => on.getByRole("listitem").filter({ hasText: name });

async function save(slug: string, settings: object, version: number | null = null): Promise<void> {
  const inlet = { slug, name: "Kitchen", kind: "panel", site: world.site, settings };
  await world.client.saveInlet(inlet as InletDescription, version);
}

beforeAll(async () => {
  world = await createWorld({ consoleDir: fileURLToPath(new URL("../dist", import.meta.url)) });
  await Promise.all([world.board("wren"), world.board("finch")]);
  browser = await openBrowser();
  await save("kitchen", {
    items: [
      { heading: "Lights" },
      { show: "wren/porch" },
      { show: "wren/hall", name: "Hall" },
      { show: "wren/path", acts: false },
    ],
  });
  key = (await world.client.addKey({ name: "phone", inlet: "kitchen" })).key;
  phone = await browser.newContext(PHONE);
  page = await phone.newPage();
});
afterAll(async () => {
  await browser.close();
  await world.stop();
});

const open = (where: Page, slug = "kitchen", itsKey = key) =>
  where.goto(`${world.service.url}/panel/${slug}#${itsKey}`);

describe("the key of a panel", () => {
  /** All that a script of the page can read. */
  const readable = (on: Page) =>
    on.evaluate(() =>
      JSON.stringify([{ ...localStorage }, { ...sessionStorage }, document.cookie, window.location.href]),
    );
  const shown = (on: Page) => on.getByRole("heading", { name: "Kitchen" }).waitFor();

  it("is in a cookie that no script reads, and opens the panel when the tablet is switched on again", async () => {
    const context = await browser.newContext(PHONE);
    const tablet = await context.newPage();
    await open(tablet);
    await shown(tablet);
    expect(await readable(tablet)).not.toContain("brk_");
    await tablet.goto(`${world.service.url}/panel/kitchen`);
    await shown(tablet);
    await tile("Hall", tablet).getByRole("button", { name: "On", exact: true }).waitFor();
    await context.close();
  });

  it("that an older version kept with the page moves into the cookie", async () => {
    const context = await browser.newContext(PHONE);
    await context.addInitScript((kept) => localStorage.setItem("panel-key kitchen", kept), key);
    const tablet = await context.newPage();
    await tablet.goto(`${world.service.url}/panel/kitchen`);
    await shown(tablet);
    expect(await readable(tablet)).not.toContain("brk_");
    await context.close();
  });

  it("is kept with the page where the browser keeps no cookies", async () => {
    const context = await browser.newContext(PHONE);
    await context.route("**/in/kitchen/key", (route) => route.fulfill({ status: 204 }));
    const tablet = await context.newPage();
    await open(tablet);
    await shown(tablet);
    await tablet.reload();
    await shown(tablet);
    await context.close();
  });
});

describe("a panel", () => {
  it("shows its items, and takes the key out of the address", async () => {
    await open(page);
    await page.getByRole("heading", { name: "Kitchen" }).waitFor();
    expect(page.url()).toBe(`${world.service.url}/panel/kitchen`);
    expect(await page.getByRole("heading", { level: 3 }).allTextContents()).toEqual([
      "Porch lantern",
      "Hall",
      "Path lights",
    ]);
    expect(await tile("Path lights").getByRole("button").count()).toBe(0);
  });

  it("switches by a press, shows how far that got, and follows what others switch", async () => {
    await tile("Hall").getByRole("button", { name: "On" }).tap();
    await tile("Hall").getByText("Confirmed.").waitFor();
    await tile("Hall").getByRole("button", { name: "On", pressed: true }).waitFor();
    expect((await channelNow(world.client, world.address("wren/hall")))?.observed?.value).toBe("on");
    await world.ask("wren/hall", "off");
    await tile("Hall").getByRole("button", { name: "Off", pressed: true }).waitFor();
  });

  it("has keys that a thumb hits, and nothing that scrolls sideways", async () => {
    const box = await tile("Hall").getByRole("button", { name: "On" }).boundingBox();
    expect(Math.min(box?.height ?? 0, box?.width ?? 0)).toBeGreaterThanOrEqual(48);
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  });

  it("opens again without the link, as an app does", async () => {
    const again = await phone.newPage();
    await again.goto(`${world.service.url}/panel/kitchen`);
    await tile("Hall", again).waitFor();
    const manifest = await again.evaluate(async () => {
      const address = document.querySelector<HTMLLinkElement>("link[rel=manifest]")?.href ?? "";
      return (await (await fetch(address)).json()) as { start_url: string; display: string };
    });
    expect(manifest).toMatchObject({ start_url: "/panel/kitchen", display: "standalone" });
    await again.close();
  });

  it("says who locked out a channel, and has no keys for it then", async () => {
    const { id } = await world.client.lockOut({ target: world.address("wren/porch"), reason: "hands in the panel" });
    await tile("Porch lantern")
      .getByText(/^Locked out by /)
      .waitFor();
    expect(await tile("Porch lantern").getByRole("button").count()).toBe(0);
    await world.client.release(id);
    await tile("Porch lantern").getByRole("button", { name: "On" }).waitFor();
  });

  it("says that it has no connection and how old it is, switches nothing, and goes on by itself", async () => {
    await withoutService(world, async () => {
      await page.getByRole("alert").filter({ hasText: "No connection. What is shown was so at" }).waitFor();
      await tile("Hall")
        .getByText(/not heard again since/i)
        .waitFor();
      expect(await page.getByRole("button", { name: "On" }).count()).toBe(0);
    });
    await tile("Hall").getByRole("button", { name: "On" }).waitFor();
    await page.getByRole("alert").waitFor({ state: "detached" });
  });

  it("opens without the service as an app does, shows nothing as known, and goes on when it is back", async () => {
    // Registered anew: the service may have gone away while the worker fetched its files.
    await page.reload();
    await page.evaluate(() => navigator.serviceWorker.ready);
    await page.reload();
    await tile("Hall").waitFor();
    await withoutService(world, async () => {
      await page.reload();
      await page.getByRole("heading", { name: "No connection" }).waitFor();
      expect(await page.getByRole("listitem").count()).toBe(0);
    });
    await tile("Hall").getByRole("button", { name: "On" }).waitFor();
  });

  it("is closed when its link is revoked", async () => {
    const { key: other } = await world.client.addKey({ name: "guest", inlet: "kitchen" });
    const guest = await (await browser.newContext(PHONE)).newPage();
    await open(guest, "kitchen", other);
    await tile("Hall", guest).waitFor();
    const found = (await world.client.keys()).find(({ name, inlet }) => name === "guest" && inlet === "kitchen");
    await world.client.revokeKey(found?.id ?? 0);
    await guest.getByText("This link is no longer valid.").waitFor();
    await guest.getByRole("button", { name: "Enter another link" }).click();
    await guest.getByLabel("Link of the panel").fill("not a link");
    await guest.getByRole("button", { name: "Open panel" }).click();
    await guest.getByText("This is not a link of a panel.").waitFor();
    await guest.getByLabel("Link of the panel").fill(`${world.service.url}/panel/kitchen#${key}`);
    await guest.getByRole("button", { name: "Open panel" }).click();
    await tile("Hall", guest).waitFor();
    await guest.context().close();
  });

  it("asks for its PIN with large keys", async () => {
    await save("locked", { items: [{ show: "wren/hall" }], pin: "2580" });
    const { key: itsKey } = await world.client.addKey({ name: "tablet", inlet: "locked" });
    await open(page, "locked", itsKey);
    await page.getByRole("heading", { name: "Enter the PIN" }).waitFor();
    for (const digit of "1111") await page.getByRole("button", { name: digit, exact: true }).tap();
    await page.getByRole("button", { name: "Enter", exact: true }).tap();
    await page.getByText("This is not the PIN of the panel.").waitFor();
    for (const digit of "2580") await page.getByRole("button", { name: digit, exact: true }).tap();
    await page.getByRole("button", { name: "Enter", exact: true }).tap();
    await tile("Hall light").waitFor();
  });
});

describe("in the console", () => {
  it("a panel is put together without YAML and shared by a link that works", async () => {
    await save("bedroom", { items: [{ heading: "Lights" }] });
    const desk = await openSignedIn(browser, world);
    await desk.goto(`${world.service.url}/inlets/bedroom`);
    const form = desk.getByRole("form", { name: "Add an item" });
    await form.getByLabel("Shows").fill("wren/hall");
    await form.getByLabel("Own wording").fill("Bedside");
    await form.getByRole("button", { name: "Add item" }).click();
    await form.getByLabel("Shows").fill("finch/porch");
    await form.getByLabel("Can be switched").uncheck();
    await form.getByRole("button", { name: "Add item" }).click();
    await desk.getByRole("button", { name: "Move up finch/porch, shown only" }).click();
    await desk.getByRole("button", { name: "Remove Heading: Lights" }).click();
    await desk.getByRole("button", { name: "Save", exact: true }).click();
    await desk.getByText(/^Version 2\./).waitFor();
    await desk.getByText("Whoever has a link can switch Bedside. Whoever has a link can see Porch lantern.").waitFor();
    await desk.getByLabel("Who or what gets the link").fill("Tablet");
    await desk.getByRole("button", { name: "Create link" }).click();
    const link = await desk.getByText(/\/panel\/bedroom#brk_/).textContent();
    await desk.getByRole("img", { name: "QR code of the link for Tablet" }).waitFor();
    const made = /#(brk_\S+)/.exec(link ?? "")?.[1] ?? "";
    const view = await createPanelClient({ baseUrl: world.service.url, slug: "bedroom", key: made }).view();
    expect(view.items.map(({ name, actions }) => [name, actions.length > 0])).toEqual([
      ["Porch lantern", false],
      ["Bedside", true],
    ]);
    await desk.close();
  });
});

it("what a panel does stands in the log under its name", async () => {
  const { requests } = await poll(
    () => world.client.log({ limit: 100 }),
    ({ requests: all }) => all.some(({ inlet }) => inlet === "kitchen"),
  );
  expect(requests.find(({ inlet }) => inlet === "kitchen")).toMatchObject({
    asker: "Kitchen",
    said: { words: "Hall: on" },
  });
});
