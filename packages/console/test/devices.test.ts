/** Adding a device, proving it, and looking at the wire, in a real browser. */
import { fileURLToPath } from "node:url";
import type { RelayBoard } from "@bold-relay/standins";
import type { Browser, Page } from "playwright-core";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { openBrowser } from "./support/browser.ts";

let world: World;
let browser: Browser;
let page: Page;
let board: RelayBoard;

beforeAll(async () => {
  world = await createWorld({ consoleDir: fileURLToPath(new URL("../dist", import.meta.url)) });
  board = await world.board("plover", {
    device: "plover",
    channels: [
      { slug: "blind", kind: "position" },
      { slug: "stage", kind: "colour" },
    ],
  });
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

const open = (path: string) => page.goto(world.service.url + path);
const step = (name: string, state: string) => page.locator(`[data-step="${name}"][data-state="${state}"]`);

async function fill(channels: string, profile: string): Promise<void> {
  await page.getByRole("button", { name: "Add a device" }).click();
  const form = page.getByRole("form", { name: "A new device" });
  await form.getByLabel("Room").fill("Plover");
  await form.getByLabel("What and where it is, in words").fill("board in the loft");
  await form.getByLabel("Its name in topics").fill("plover");
  await form.getByLabel("What it speaks").selectOption(profile);
  await form.getByLabel(/^Its channels/).fill(channels);
}

describe("a device", () => {
  it("with a mistake in it is not added, and the mistake is named", async () => {
    await open("/devices");
    await fill("Loft blind, blind", "new-device");
    await page.getByRole("button", { name: "Add it" }).click();
    await page.getByRole("alert").getByText("after the name and a comma comes its kind").waitFor();
    await page.getByLabel(/^Its channels/).fill("Loft heat, sensor, °C");
    await page.getByLabel("What it speaks").selectOption("single-characters");
    await page.getByRole("button", { name: "See what would change" }).click();
    await page.getByText("is a sensor, but its profile reports nothing").waitFor();
    await page.getByRole("button", { name: "Add it" }).click();
    await page.getByRole("alert").getByText("Nothing was changed.").waitFor();
  });

  it("is added while the service runs, set on the board, and proven step by step", async () => {
    await open("/devices");
    await fill("Blind, position\nStage, colour", "new-device");
    await page.getByRole("button", { name: "See what would change" }).click();
    await page.getByText("Nothing speaks against it.").waitFor();
    await page.getByRole("button", { name: "Add it" }).click();
    await page.getByRole("link", { name: "board in the loft" }).click();
    await page.getByRole("button", { name: "Prove it" }).click();
    await step("presence", "passed").waitFor();
    await step("channel blind", "ready").getByRole("button", { name: "Begin" }).click();
    await step("channel blind", "passed").waitFor();
    await step("channel stage", "ready").getByRole("button", { name: "Leave out" }).click();
    await step("channel stage", "skipped").waitFor();
    await step("hand", "ready").getByRole("button", { name: "Begin" }).click();
    await step("hand", "running").waitFor();
    await board.flip("stage");
    await step("hand", "passed").waitFor();

    await open(`/board/${world.site}`);
    const row = (channel: string) => page.locator(`[data-channel="${world.address(channel)}"]`);
    await row("plover/blind").getByRole("slider").fill("40");
    await row("plover/blind").getByText("40 % open").waitFor();
    await row("plover/stage")
      .getByLabel(/^Colour of/)
      .fill("#3355ff");
    await row("plover/stage").getByText("#3355ff").waitFor();
    expect(board.state.contacts).toEqual({ blind: 40, stage: "#3355ff" });
  });
});

describe("the wire", () => {
  it("shows what is said and what it is, and takes a message by hand", async () => {
    await world.board("wren");
    await open(`/wire?filter=${encodeURIComponent(`${world.site}/wren/#`)}`);
    await page.getByText("is here, lay retained").waitFor();
    await world.ask("wren/porch", "on");
    const line = page.getByRole("row").filter({ hasText: "report" }).filter({ hasText: "command …" });
    await line.first().getByText(`${world.site}/wren/porch/is`, { exact: true }).waitFor();
    const byHand = page.getByRole("region", { name: "By hand" });
    await byHand.getByLabel("Topic").fill(`${world.site}/wren/hall/is`);
    await byHand.getByLabel("Payload").fill('{"to":"on","by":"hand"}');
    await byHand.getByRole("button", { name: "Write" }).click();
    await byHand.getByRole("status").getByText("It is in the audit.").waitFor();
    await page.getByText("on, by hand").first().waitFor();
    await byHand.getByLabel("Topic").fill("$SYS/x");
    await byHand.getByRole("button", { name: "Write" }).click();
    await byHand.getByRole("alert").getByText("not begin with $").waitFor();
  });
});
