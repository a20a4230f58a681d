/** The console in a real browser, against a real service and stand-in boards. */
import { fileURLToPath } from "node:url";
import type { Browser, Locator, Page } from "playwright-core";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { createWorld, OWNER, type World } from "../../service/test/support/world.ts";
import { openBrowser, openPage } from "./support/browser.ts";

let world: World;
let browser: Browser;
let page: Page;
const errors: string[] = [];

beforeAll(async () => {
  const consoleDir = fileURLToPath(new URL("../dist", import.meta.url));
  world = await createWorld({ consoleDir, delivery: { ackWithinMs: 8_000 } });
  for (const device of ["wren", "finch", "dunlin"])
    await world.board(device, { reports: device !== "dunlin", slowMs: 700 });
  browser = await openBrowser();
});
afterAll(async () => {
  await browser.close();
  await world.stop();
});

beforeEach(async () => {
  page = await openPage(browser, errors);
  await page.goto(world.service.url);
  await page.getByLabel("Name", { exact: true }).fill(OWNER.name);
  await page.getByLabel("Password").fill(OWNER.password);
  await page.getByRole("button", { name: "Sign in" }).click();
  await page.getByRole("heading", { name: "Alder Row" }).waitFor();
});
afterEach(async () => {
  await page.close();
  expect(errors.splice(0)).toEqual([]);
});

const row = (channel: string): Locator => page.locator(`[data-channel="${world.address(channel)}"]`);
const press = (channel: string, name: "On" | "Off") => row(channel).getByRole("button", { name, exact: true }).click();
const track = (channel: string) => row(channel).getByRole("img");

describe("signing in", () => {
  it("says what is wrong and keeps the name; signing out comes back here", async () => {
    await page.getByRole("button", { name: "Sign out" }).click();
    await page.getByLabel("Name", { exact: true }).fill(OWNER.name);
    await page.getByLabel("Password").fill("not this");
    await page.getByRole("button", { name: "Sign in" }).click();
    await page.getByRole("alert").getByText("No member has this name with this password.").waitFor();
    expect(await page.getByLabel("Name", { exact: true }).inputValue()).toBe(OWNER.name);
  });
});

describe("the board", () => {
  it("a press is followed to its confirmation, and the lamp shows what is", async () => {
    await press("wren/porch", "On");
    await row("wren/porch").getByText("On", { exact: true }).first().waitFor();
    await row("wren/porch")
      .getByRole("img", { name: /^confirmed after/ })
      .waitFor();
    expect(await row("wren/porch").getByRole("button", { name: "On", exact: true }).getAttribute("aria-pressed")).toBe(
      "true",
    );
    expect(page.url()).toMatch(/\/board$/);
  });

  it("shows the way while a slow board takes its time, and never lights the lamp before", async () => {
    const board = await world.board("finch");
    await board.setFault("slow");
    await press("finch/porch", "On");
    await row("finch/porch").getByRole("img", { name: /^open/ }).waitFor();
    expect(await row("finch/porch").getByText("Commanded: on").count()).toBe(1);
    expect(await row("finch/porch").getByRole("button", { name: "On", exact: true }).getAttribute("aria-pressed")).toBe(
      "false",
    );
    await row("finch/porch")
      .getByRole("img", { name: /^confirmed/ })
      .waitFor();
    await board.setFault("none");
  });

  it("falls back visibly when the board says no", async () => {
    const board = await world.board("finch");
    await board.setFault("refusing");
    await press("finch/hall", "On");
    await row("finch/hall").getByText("failed").waitFor();
    await row("finch/hall").getByText("Commanded: on").waitFor();
    expect(await track("finch/hall").getAttribute("aria-label")).toBe("failed: got as far as published");
    await board.setFault("none");
  });

  it("sees a hand at the wall, live", async () => {
    await (await world.board("wren")).flip("path");
    await row("wren/path").getByText("By hand").waitFor();
  });

  it("never shows as lit what was only acknowledged", async () => {
    await press("dunlin/porch", "On");
    await row("dunlin/porch")
      .getByRole("img", { name: /^acknowledged after/ })
      .waitFor();
    await row("dunlin/porch").getByText("Unknown").waitFor();
  });

  it("names a board that goes off the broker", async () => {
    const board = await world.board("finch");
    await board.setFault("unplugged");
    await page.locator("strong", { hasText: /^offline/ }).waitFor();
    await board.setFault("none");
    await page.locator("strong", { hasText: /^offline/ }).waitFor({ state: "detached" });
  });

  it("works by keyboard alone", async () => {
    const button = row("wren/hall").getByRole("button", { name: "On", exact: true });
    await button.focus();
    await page.keyboard.press("Enter");
    await row("wren/hall")
      .getByRole("img", { name: /^confirmed/ })
      .waitFor();
    expect(await button.evaluate((element) => element === document.activeElement)).toBe(true);
  });
});

describe("lock-out", () => {
  it("takes one press, names the holder, and lets go at once for them", async () => {
    await row("wren/hall").hover();
    await row("wren/hall")
      .getByRole("button", { name: /^Lock out/ })
      .click();
    await row("wren/hall").getByText("Locked out by Ines").waitFor();
    expect(await row("wren/hall").getByRole("button", { name: "On", exact: true }).count()).toBe(0);
    await row("wren/hall")
      .getByRole("button", { name: /^Release/ })
      .click();
    await press("wren/hall", "On");
    await row("wren/hall")
      .getByRole("img", { name: /^confirmed/ })
      .waitFor();
  });

  it("somebody else's is only released with a reason", async () => {
    await world.pool.query("insert into member (name, password_hash, role) values ('Tomas', 'none', 'owner')");
    await world.client.lockOut({ target: "wren/path", reason: "new lamps" });
    await world.pool.query(
      "update lockout set holder = 'Tomas', holder_id = (select id from member where name = 'Tomas')",
    );
    await world.restart();
    await page.goto(world.service.url);
    await row("wren/path").getByText("Locked out by Tomas").waitFor();
    await row("wren/path")
      .getByRole("button", { name: /^Release/ })
      .click();
    await page.getByRole("heading", { name: "Release Path lights, Wren?" }).waitFor();
    await page.getByLabel("Reason").fill("Tomas is at lunch, panel shut");
    await page.getByRole("dialog").getByRole("button", { name: "Release", exact: true }).click();
    await row("wren/path").getByRole("button", { name: "On", exact: true }).waitFor();
    errors.length = 0;
  });
});

describe("the trace", () => {
  it("opens from a row, tells the verdict first, then every hop, and can be sent again", async () => {
    const board = await world.board("finch");
    await board.setFault("refusing");
    await press("finch/path", "On");
    await row("finch/path").getByText("failed").waitFor();
    await row("finch/path")
      .getByRole("link", { name: /^Trace/ })
      .click();
    const panel = page.getByRole("complementary", { name: "Trace" });
    await panel.getByText("Refused by the device.").waitFor();
    for (const hop of ["Requested", "Accepted", "Sent", "Refused", "Failed"])
      await panel.getByText(hop, { exact: true }).waitFor();
    expect(await panel.locator("pre").first().textContent()).toContain(world.address("finch/path/do"));

    const first = page.url();
    await board.setFault("none");
    await panel.getByRole("button", { name: "Send again" }).click();
    await panel.getByText("Confirmed.", { exact: true }).waitFor();
    expect(page.url()).not.toBe(first);
    await page.reload();
    await panel.getByText("Confirmed.", { exact: true }).waitFor();
    await panel.getByRole("button", { name: "Close" }).click();
    await panel.waitFor({ state: "detached" });
  });

  it("fills while it is watched", async () => {
    const board = await world.board("finch");
    await board.setFault("slow");
    await press("finch/porch", "Off");
    await row("finch/porch").getByRole("img", { name: /^open/ }).waitFor();
    await row("finch/porch")
      .getByRole("link", { name: /^Trace/ })
      .click();
    const panel = page.getByRole("complementary", { name: "Trace" });
    await panel.getByText("Confirmed.", { exact: true }).waitFor();
    await board.setFault("none");
  });
});

describe("log", () => {
  const rows = () => page.locator("[data-request]");

  it("live at the top, narrowed in the address, each with its trace", async () => {
    const board = await world.board("finch");
    await board.setFault("refusing");
    await page.getByRole("link", { name: "Log" }).click();
    await page.getByRole("heading", { name: "Log" }).waitFor();
    const request = await world.ask("finch/porch", "on");
    await page.locator(`[data-request="${request.id}"]`).getByText("failed").waitFor();
    await board.setFault("none");

    await page.getByRole("button", { name: "Not delivered" }).click();
    await page.waitForURL(/result=not-delivered/);
    await rows().filter({ hasNotText: "failed" }).first().waitFor({ state: "detached" });
    await page.getByRole("searchbox").fill("finch");
    await page.waitForURL(/words=finch/);
    await page.locator(`[data-request="${request.id}"]`).getByRole("link", { name: /Trace/ }).click();
    await page.getByText("Refused by the device.", { exact: true }).waitFor();
    await page.reload();
    await page.getByText("Refused by the device.", { exact: true }).waitFor();
    expect(await page.getByRole("searchbox").inputValue()).toBe("finch");
    expect(await page.getByRole("button", { name: "Not delivered" }).getAttribute("aria-pressed")).toBe("true");
  });

  it("says what to do when nothing is like this", async () => {
    await page.goto(`${world.service.url}/log?words=nobody+said+this`);
    await page.getByText("No request matches these filters.").waitFor();
    await page.getByRole("link", { name: "Clear filters" }).click();
    await rows().first().waitFor();
  });

  it("more are read as one scrolls, and only a screenful is drawn", async () => {
    await Promise.all(Array.from({ length: 160 }, () => world.ask("wren/hall", "on")));
    await page.goto(`${world.service.url}/log`);
    await rows().first().waitFor();
    const count = () => page.getByRole("table", { name: "Log" }).getAttribute("aria-rowcount");
    expect(Number(await count())).toBe(50);
    await page.evaluate(() => window.scrollTo(0, document.body.scrollHeight));
    await page.locator("[aria-rowcount='100']").waitFor();
    expect(await rows().count()).toBeLessThan(60);
  });
});

describe("without the service", () => {
  it("says so and since when, and comes back without a reload", async () => {
    const { port } = new URL(world.service.url);
    await world.service.stop();
    await page.getByText("No connection to the service.").waitFor();
    const { startService, createLog } = await import("../../service/src/index.ts");
    world.service = await startService({ ...world.config, port: Number(port) }, createLog("silent"));
    await page.getByText("No connection to the service.").waitFor({ state: "detached" });
    await world.service.linked;
    await press("wren/porch", "Off");
    await row("wren/porch")
      .getByRole("img", { name: /^confirmed/ })
      .waitFor();
    // What the browser noted about the lost connection is as it should be.
    errors.length = 0;
  });
});
