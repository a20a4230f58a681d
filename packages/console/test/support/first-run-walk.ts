/** From the one-time link to a request that arrives, as a person does it in a browser: with a stand-in board that is started by hand. */
import { execFile } from "node:child_process";
import { promisify } from "node:util";
import { RelayBoard } from "@bold-relay/standins";
import type { Page } from "playwright-core";
import { expect } from "vitest";

export const OWNER = { name: "Ines", password: "four lanterns stand beside water" } as const;

export interface Walk {
  readonly page: Page;
  /** The one-time link, as the service or the installer printed it. */
  readonly link: string;
  /** File with the certificate to trust at the broker, PEM. */
  readonly brokerCa: string;
  /** Where the stand-in reaches the broker that the page names. Default: as the page says. */
  readonly brokerUrl?: string;
  /** Told when a step is done, with its name: to take a picture, say. */
  readonly onStep?: (name: string) => Promise<void>;
}

/** Walks through all seven steps, with the mistakes that people make. @returns the board, whose lamp answers */
export async function walkFirstRun({
  page,
  link,
  brokerCa,
  brokerUrl,
  onStep = async () => {},
}: Walk): Promise<RelayBoard> {
  const { origin } = new URL(link);
  const progress = async (steps: number, name: string) => {
    await page.getByText(`${steps} of 7 steps done`).waitFor();
    await onStep(name);
  };
  await becomeOwner(page, link);
  await progress(2, "owner");
  await page.getByText(`${OWNER.name} is signed in as owner.`).waitFor();
  await page.getByText("The service is connected to the broker.").waitFor();
  // The link is used up, and is in no address that the browser keeps.
  expect(page.url()).toBe(`${origin}/setup`);

  await page.getByLabel("Name", { exact: true }).fill("Alder Row");
  expect(await page.getByLabel("Identifier").inputValue()).toBe("alder-row");
  await page.getByLabel("Identifier").fill("alder/row");
  await page.getByRole("button", { name: "Add site" }).click();
  await page
    .getByRole("alert")
    .getByText(/small letters/)
    .waitFor();
  await page.getByLabel("Identifier").fill("alder-row");
  await page.getByRole("button", { name: "Add site" }).click();
  await progress(3, "site");

  // Left, and resumed from the Board.
  await page.goto(`${origin}/board`);
  await page.getByRole("link", { name: "Continue the set-up" }).click();
  await addDevice(page);
  await progress(4, "device");

  const board = await connectBoard(page, brokerCa, brokerUrl);
  await progress(5, "access");
  await commission(page, board);
  await progress(6, "commissioning");

  await page.getByRole("button", { name: "Add web inlet" }).click();
  const caller = await page.getByRole("status").filter({ hasText: "Run this in a shell" }).locator("pre").innerText();
  const { stdout } = await promisify(execFile)("sh", ["-c", caller.replace("curl ", "curl -s ")]);
  expect(JSON.parse(stdout)).toMatchObject({ outcome: "delivered" });
  await progress(7, "inlet");
  await page.getByText("All steps are done.").waitFor();
  expect(board.state.contacts["bench-lamp"]).toBe("on");
  return board;
}

async function becomeOwner(page: Page, link: string): Promise<void> {
  await page.goto(link);
  await page.getByLabel("Name").fill(OWNER.name);
  await page.getByLabel("Password").fill("too short");
  await page.getByRole("button", { name: "Create owner" }).click();
  await page.getByRole("alert").getByText("at least 12 characters").waitFor();
  await page.getByLabel("Password").fill(OWNER.password);
  await page.getByRole("button", { name: "Create owner" }).click();
}

async function addDevice(page: Page): Promise<void> {
  const form = page.getByRole("form", { name: "New device" });
  await form.getByLabel("Room").fill("Bench");
  await form.getByLabel("Name", { exact: true }).fill("bench board");
  await form.getByLabel("Identifier", { exact: true }).fill("bench-board");
  await form.getByLabel("Profile", { exact: true }).selectOption("new-device");
  await form.getByLabel("Name of channel 1", { exact: true }).fill("Bench lamp");
  await form.getByLabel("Kind of channel 1").selectOption("light");
  await form.getByRole("button", { name: "Add device" }).click();
}

/** The board gets the user, the password and the address that the page shows, as somebody would type them into it. */
async function connectBoard(page: Page, brokerCa: string, brokerUrl?: string): Promise<RelayBoard> {
  await page.getByRole("button", { name: "Create broker user" }).click();
  const secret = page.getByRole("status").filter({ hasText: "shown only once" });
  const username = /password of (\S+),/.exec(await secret.innerText())?.[1] ?? "";
  const password = (await secret.locator(".font-mono").innerText()).trim();
  const shown = await page
    .getByText(/^mqtts:\/\/\S+$/)
    .first()
    .innerText();
  const board = new RelayBoard({
    brokerUrl: brokerUrl ?? shown,
    brokerCa,
    username,
    password,
    site: "alder-row",
    device: "bench-board",
    channels: [{ slug: "bench-lamp", kind: "light" }],
  });
  await board.start();
  return board;
}

async function commission(page: Page, board: RelayBoard): Promise<void> {
  const step = (name: string, state: string) => page.locator(`[data-step="${name}"][data-state="${state}"]`);
  await page.getByRole("button", { name: "Start commissioning" }).click();
  await step("presence", "passed").waitFor();
  await step("channel bench-lamp", "ready").getByRole("button", { name: "Start" }).click();
  await step("channel bench-lamp", "passed").waitFor();
  await step("hand", "ready").getByRole("button", { name: "Start" }).click();
  await step("hand", "running").waitFor();
  await board.flip("bench-lamp");
  await step("hand", "passed").waitFor();
  await step("power", "ready").getByRole("button", { name: "Skip" }).click();
}
