/** From an empty installation to a lamp that answers, in a real browser: nothing but the one-time link to begin with. */
import { execFile } from "node:child_process";
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { promisify } from "node:util";
import { type Broker, createServiceDatabase, findPrograms, freePort, startBroker } from "@bold-relay/rig";
import { createLog, type RunningService, readConfig, startService } from "@bold-relay/service";
import { RelayBoard } from "@bold-relay/standins";
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, expect, inject, it } from "vitest";
import { runServerProgram } from "../../service/test/support/server-program.ts";
import { openBrowser, openPage } from "./support/browser.ts";

const ADMIN = "an admin's password";
const PASSWORD = "four lanterns stand beside water";

let folder: string;
let broker: Broker;
let service: RunningService;
let databaseUrl: string;
let browser: Browser;
let page: Page;
let board: RelayBoard | null = null;
const errors: string[] = [];

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), "bold-relay-first-run-"));
  chmodSync(folder, 0o755);
  broker = await startBroker({
    programs: findPrograms(),
    folder: path.join(folder, "broker"),
    port: await freePort(),
    users: [{ name: "service", password: "a service's password", topics: "service" as const }],
    devicePort: await freePort(),
    adminPassword: ADMIN,
  });
  databaseUrl = await createServiceDatabase(findPrograms(), inject("databaseUrl"), "first_run");
  const config = readConfig({
    BOLD_RELAY_DATABASE_URL: databaseUrl,
    BOLD_RELAY_BROKER_URL: broker.url,
    BOLD_RELAY_BROKER_USER: "service",
    BOLD_RELAY_BROKER_PASSWORD: "a service's password",
    BOLD_RELAY_BROKER_ADMIN_USER: "admin",
    BOLD_RELAY_BROKER_ADMIN_PASSWORD: ADMIN,
    BOLD_RELAY_DEVICE_BROKER_URL: broker.devices?.url,
    BOLD_RELAY_DEVICE_BROKER_CA_FILE: broker.devices?.ca,
    BOLD_RELAY_PORT: "0",
    BOLD_RELAY_LOG_LEVEL: "silent",
    BOLD_RELAY_CONSOLE_DIR: fileURLToPath(new URL("../dist", import.meta.url)),
  });
  service = await startService(config, createLog(config.logLevel));
  await service.linked;
  browser = await openBrowser();
  page = await openPage(browser, errors);
});
afterAll(async () => {
  await browser.close();
  await board?.stop();
  await service.stop();
  await broker.stop();
  rmSync(folder, { recursive: true, force: true });
});

const progress = (steps: number) => page.getByText(`${steps} of 7 steps done`).waitFor();
const step = (name: string, state: string) => page.locator(`[data-step="${name}"][data-state="${state}"]`);

it("leads from the link to a request that arrives, and shows what proved each step", async () => {
  const { out } = await runServerProgram({ BOLD_RELAY_DATABASE_URL: databaseUrl }, "setup", "--url", service.url);
  await page.goto(/http\S+/.exec(out)?.[0] ?? "");
  await page.getByLabel("Name").fill("Ines");
  await page.getByLabel("Password").fill("too short");
  await page.getByRole("button", { name: "Create owner" }).click();
  await page.getByRole("alert").getByText("at least 12 characters").waitFor();
  await page.getByLabel("Password").fill(PASSWORD);
  await page.getByRole("button", { name: "Create owner" }).click();

  await progress(2);
  await page.getByText("Ines is signed in as owner.").waitFor();
  await page.getByText("The service is connected to the broker.").waitFor();
  // The link is used up, and is in no address that the browser keeps.
  expect(page.url()).toBe(`${service.url}/setup`);

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
  await progress(3);

  // Left, and resumed from the Board.
  await page.goto(`${service.url}/board`);
  await page.getByRole("link", { name: "Continue the set-up" }).click();
  const form = page.getByRole("form", { name: "New device" });
  await form.getByLabel("Room").fill("Bench");
  await form.getByLabel("Name", { exact: true }).fill("bench board");
  await form.getByLabel("Identifier", { exact: true }).fill("bench-board");
  await form.getByLabel("Profile", { exact: true }).selectOption("new-device");
  await form.getByLabel("Name of channel 1", { exact: true }).fill("Bench lamp");
  await form.getByLabel("Kind of channel 1").selectOption("light");
  await form.getByRole("button", { name: "Add device" }).click();
  await progress(4);

  await page.getByRole("button", { name: "Create broker user" }).click();
  const secret = page.getByRole("status").filter({ hasText: "shown only once" });
  const username = /password of (\S+),/.exec(await secret.innerText())?.[1] ?? "";
  const password = (await secret.locator(".font-mono").innerText()).trim();
  await page.getByText(broker.devices?.url ?? "").waitFor();
  board = new RelayBoard({
    brokerUrl: broker.devices?.url ?? "",
    brokerCa: broker.devices?.ca ?? "",
    username,
    password,
    site: "alder-row",
    device: "bench-board",
    channels: [{ slug: "bench-lamp", kind: "light" }],
  });
  await board.start();
  await progress(5);

  await page.getByRole("button", { name: "Start commissioning" }).click();
  await step("presence", "passed").waitFor();
  await step("channel bench-lamp", "ready").getByRole("button", { name: "Start" }).click();
  await step("channel bench-lamp", "passed").waitFor();
  await step("hand", "ready").getByRole("button", { name: "Start" }).click();
  await step("hand", "running").waitFor();
  await board.flip("bench-lamp");
  await step("hand", "passed").waitFor();
  await step("power", "ready").getByRole("button", { name: "Skip" }).click();
  await progress(6);

  await page.getByRole("button", { name: "Add web inlet" }).click();
  const caller = await page.getByRole("status").filter({ hasText: "Run this in a shell" }).locator("pre").innerText();
  const { stdout } = await promisify(execFile)("sh", ["-c", caller.replace("curl ", "curl -s ")]);
  expect(JSON.parse(stdout)).toMatchObject({ outcome: "delivered" });
  await progress(7);
  await page.getByText("All steps are done.").waitFor();
  expect(board.state.contacts["bench-lamp"]).toBe("on");
  // What was entered wrongly is refused, and a browser notes that as an error of loading.
  expect(errors.filter((error) => !/status of (422|400)/.test(error))).toEqual([]);
});

it("ends with the first owner: the link leads to the sign-in", async () => {
  const guest = await openPage(browser, []);
  await guest.goto(`${service.url}/setup#used-up`);
  await guest.getByText("This installation has an owner.").waitFor();
  await guest.close();
});
