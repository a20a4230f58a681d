/** The console's controls for what needs care, its 24 hours of a channel, and the team, in a real browser. */
import { fileURLToPath } from "node:url";
import type { ProblemError } from "@bold-relay/api";
import type { RelayBoard } from "@bold-relay/standins";
import type { Browser, Locator, Page } from "playwright-core";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { describePlover, PLOVER, ploverProfiles } from "../../service/test/support/plover.ts";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { openBrowser, openSignedIn } from "./support/browser.ts";

let world: World;
let browser: Browser;
let page: Page;
let board: RelayBoard;

beforeAll(async () => {
  const consoleDir = fileURLToPath(new URL("../dist", import.meta.url));
  world = await createWorld({ consoleDir, describe: describePlover, profiles: ploverProfiles });
  board = await world.board("plover", PLOVER);
  browser = await openBrowser();
});
afterAll(async () => {
  await browser.close();
  await world.stop();
});

const open = async (path: string, key = world.key) => {
  page = await browser.newPage({ extraHTTPHeaders: { authorization: `Bearer ${key}` } });
  await page.goto(world.service.url + path);
};
beforeEach(() => open("/board"));
afterEach(() => page.close());

const row = (channel: string): Locator => page.locator(`[data-channel="${world.address(channel)}"]`);
const key = (channel: string, name: string) => row(channel).getByRole("button", { name, exact: true });

describe("a reading", () => {
  it("is asked for on the channel's own page, and says how far it got", async () => {
    await open(`/history/${world.address("attic/lamp")}`);
    await page.getByText("Unknown", { exact: true }).waitFor();
    await page.getByRole("group", { name: "Ask the device: Attic lamp, Plover" }).getByRole("button").click();
    await page.getByRole("status").getByText("Nobody listens.").waitFor();
    const attic = await world.board("attic", { channels: ["lamp"] });
    await attic.flip("lamp");
    await page.getByRole("button", { name: "Read" }).click();
    await page.getByRole("status").getByText("Read.", { exact: true }).waitFor();
  });
});

describe("statistics", () => {
  it("tell how well it goes, of all sites or one, and are sent by their address", async () => {
    await world.ask("plover/dim", "on");
    await world.client.ask({ target: "no such lamp", action: "on" }).catch(() => {});
    await page.getByRole("link", { name: "Statistics" }).click();
    await page.locator('[data-statistic="successRate"]', { hasText: "%" }).waitFor();
    await page.getByText(/not understood: [1-9]/).waitFor();
    const device = page.locator(`[data-group="${world.address("plover")}"]`);
    expect(await device.getByRole("cell", { name: /^[\d.]+ m?s$/ }).count()).toBe(2);
    await page.getByRole("button", { name: "30 days" }).click();
    await page.waitForURL(/days=30/);
    await page.reload();
    await page.locator('[aria-pressed="true"]', { hasText: "30 days" }).waitFor();
    const table = await page.request.get(`${world.service.url}/api/v1/statistics.csv?days=30&table=devices`);
    expect(await table.text()).toContain(world.address("plover"));
  });

  it("are not for viewers", async () => {
    const { key } = await world.client.addKey({ name: "panel", most: "user" });
    await open("/statistics", key);
    await page.getByRole("alert").waitFor();
    expect(await page.getByRole("link", { name: "Statistics" }).count()).toBe(0);
  });
});

describe("the board", () => {
  it("a dimmer goes brighter by steps, and shows its level", async () => {
    await key("plover/dim", "On").click();
    await row("plover/dim").getByText("100 %").waitFor();
    await key("plover/dim", "Darker").click();
    await row("plover/dim").getByText("90 %").waitFor();
    expect(board.state.contacts.dim).toBe(90);
  });

  it.each([768, 1024, 1280])("has every key in sight at %d px, beside an open trace too", async (width) => {
    const sideways = () =>
      page.evaluate(async () => {
        // Letters of another face, until then, are of another width.
        await document.fonts.ready;
        const schedule = document.querySelector("table")?.parentElement;
        return schedule ? schedule.scrollWidth - schedule.clientWidth : Number.NaN;
      });
    await world.ask("plover/dim", "on");
    await page.setViewportSize({ width, height: 800 });
    await row("plover/dim").getByText("100 %").waitFor();
    expect(await sideways()).toBe(0);
    await row("plover/dim")
      .getByRole("link", { name: /^Trace of the last command/ })
      .click();
    await page.getByRole("complementary", { name: "Trace" }).waitFor();
    if (width === 1280) expect(await sideways()).toBe(0);
  });

  it("a motor has a stop, and a gate one key", async () => {
    await key("plover/skylight", "Open").hover();
    await page.mouse.down();
    await row("plover/skylight").getByText("Opening at 100 %").waitFor();
    await page.mouse.up();
    await key("plover/skylight", "Stop").click();
    await row("plover/skylight").getByText("Standing").waitFor();
    await key("plover/gate", "Pulse").click();
    await row("plover/gate")
      .getByRole("img", { name: /^acknowledged/ })
      .waitFor();
  });

  describe("a key that is held", () => {
    const heard = () => board.deeds.filter(({ channel, deed }) => channel === "skylight" && deed === "heard");
    const settled = () => row("plover/skylight").getByText("Standing").waitFor();
    const runs = () => row("plover/skylight").getByText("Closing at 100 %").waitFor();

    beforeEach(async () => {
      await board.setFault("none");
      await settled();
      board.deeds.length = 0;
    });

    it("is asked for anew while it is held, and ends when it is let go", async () => {
      await key("plover/skylight", "Close").hover();
      await page.mouse.down();
      await runs();
      await expect.poll(() => heard().filter(({ to }) => to === -100).length, { timeout: 20_000 }).toBeGreaterThan(3);
      await page.mouse.up();
      await settled();
      await expect.poll(() => heard().at(-1)?.to, { timeout: 20_000 }).toBe(0);
    });

    it("by keyboard the same; it ends when the focus goes", async () => {
      await key("plover/skylight", "Close").focus();
      await page.keyboard.down("Enter");
      await runs();
      await key("plover/skylight", "Stop").focus();
      await settled();
      await page.keyboard.up("Enter");
      expect(heard().at(-1)?.to).toBe(0);
    });

    it("ends when the page is left", async () => {
      await key("plover/skylight", "Close").hover();
      await page.mouse.down();
      await runs();
      await page.evaluate(() => window.dispatchEvent(new Event("blur")));
      await settled();
      await expect.poll(() => heard().at(-1)?.to, { timeout: 20_000 }).toBe(0);
    });

    it("a click without a hand lasts the device's own time", async () => {
      await key("plover/skylight", "Close").evaluate((element: HTMLElement) => element.click());
      await runs();
      await settled();
      expect(heard().filter(({ to }) => to === -100)).toHaveLength(1);
    });
  });

  it("what goes off by itself says when", async () => {
    await key("plover/pump", "On").click();
    await row("plover/pump")
      .getByText(/^Off at \d/)
      .waitFor();
    await key("plover/pump", "Off").click();
    await row("plover/pump")
      .getByText(/^Off at \d/)
      .waitFor({ state: "detached" });
  });

  it("a group says how many got there; its trace has every member", async () => {
    const group = page.getByRole("group", { name: "Heaters" });
    await group.getByRole("button", { name: "On", exact: true }).click();
    await page.getByText("2 of 2 delivered").click();
    await page.getByRole("heading", { name: "Heating, Plover: on" }).waitFor();
    await page.getByRole("heading", { name: "Sign, Plover: on" }).waitFor();
  });

  it("a stop that nothing proves is tried until somebody says why it need not be", async () => {
    await board.setFault("silent");
    await key("plover/skylight", "Stop").click();
    // Until the row tells of this stop, its link leads to the command before.
    await row("plover/skylight").getByRole("img", { name: /^open/ }).waitFor();
    await row("plover/skylight")
      .getByRole("link", { name: /^Trace of the last command/ })
      .click();
    await page.getByText("It is sent again until it is confirmed").waitFor();
    await page.getByRole("button", { name: "Cancel request" }).click();
    await page.getByLabel("Reason").fill("motor taken out");
    await page.getByRole("dialog").getByRole("button", { name: "Cancel request" }).click();
    await page.getByText("Ines (motor taken out) cancelled it before it was confirmed").waitFor();
    await board.setFault("none");
  });
});

describe("the last 24 hours", () => {
  it("are one press away, with one line to copy", async () => {
    await world.ask("plover/sign", "on");
    await board.flip("sign");
    await row("plover/sign").getByRole("link", { name: "Sign" }).first().click();
    await page
      .getByText(/^Sign, Plover has been off since .*, by hand\. In 24 h: \d+ commanded, 0 not delivered/)
      .waitFor();
    await page.getByRole("list", { name: "What happened, newest first" }).getByText("by hand").first().waitFor();
  });
});

describe("the team", () => {
  it("a member is added with a role, and removed with everything that they have", async () => {
    await page.close();
    page = await openSignedIn(browser, world);
    await page.goto(`${world.service.url}/access`);
    await page.getByLabel("New member").fill("Tomas");
    await page.getByLabel("Role", { exact: true }).selectOption("user");
    await page.getByRole("button", { name: "Invite member" }).click();
    await page.getByText("Invitation of Tomas (shown only once):").waitFor();
    await page.getByLabel("Role of Tomas").selectOption("operator");
    await page.locator("[data-member=Tomas]").getByText("operator, every site").waitFor();
    await page.locator("[data-member=Tomas]").getByRole("button", { name: "Remove member" }).click();
    await page.getByRole("button", { name: "Remove Tomas, with all sessions and keys" }).click();
    await page.locator("[data-member=Tomas]").waitFor({ state: "detached" });
    await page.getByRole("region", { name: "Audit log" }).getByText("Ines removed the member Tomas").waitFor();
  });

  it("a user sees the board with its keys, and nothing that takes more", async () => {
    const { key: userKey } = await world.client.addKey({ name: "wall panel", most: "user" });
    await open("/board", userKey);
    await key("plover/sign", "On").click();
    await row("plover/sign").getByText("On", { exact: true }).first().waitFor();
    expect(await page.getByRole("link", { name: "Team" }).count()).toBe(0);
    expect(await page.getByRole("link", { name: "Log" }).count()).toBe(0);
    expect(await page.getByRole("button", { name: /^Lock out/ }).count()).toBe(0);
  });
});

// Last: with second site the board begins with a choice of them.
describe("log", () => {
  it("are of one site where one is chosen, also what was refused there", async () => {
    const glass = { ...describePlover("glasshouse"), name: "Glasshouse" };
    await world.client.saveSite(glass, 0);
    const there = await world.client.ask({ target: "glasshouse/plover/heat", action: "sing" }).catch(idOf);
    const here = await world.client.ask({ target: world.address("plover/heat"), action: "sing" }).catch(idOf);
    await open("/log");
    const request = (id: unknown) => page.locator(`[data-request="${id}"]`);
    await request(here).waitFor();
    await page.getByRole("button", { name: "Glasshouse" }).click();
    await request(there).waitFor();
    await request(here).waitFor({ state: "detached" });
    await page.waitForURL(/site=glasshouse/);
  });

  function idOf(error: ProblemError): unknown {
    return error.problem.request;
  }
});
