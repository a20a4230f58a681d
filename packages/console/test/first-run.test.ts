/** From an empty installation to a lamp that answers, in a real browser: nothing but the one-time link to begin with. */
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { type Broker, createServiceDatabase, findPrograms, freePort, startBroker } from "@bold-relay/rig";
import { createLog, type RunningService, readConfig, startService } from "@bold-relay/service";
import type { RelayBoard } from "@bold-relay/standins";
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, expect, inject, it } from "vitest";
import { runServerProgram } from "../../service/test/support/server-program.ts";
import { openBrowser, openPage } from "./support/browser.ts";
import { walkFirstRun } from "./support/first-run-walk.ts";

const ADMIN = "an admin's password";

let folder: string;
let broker: Broker;
let openBroker: () => Promise<Broker>;
let service: RunningService;
let databaseUrl: string;
let browser: Browser;
let page: Page;
let board: RelayBoard | null = null;
const errors: string[] = [];

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), "bold-relay-first-run-"));
  chmodSync(folder, 0o755);
  const ports = { port: await freePort(), devicePort: await freePort() };
  openBroker = () =>
    startBroker({
      programs: findPrograms(),
      folder: path.join(folder, "broker"),
      ...ports,
      users: [{ name: "service", password: "a service's password", topics: "service" as const }],
      adminPassword: ADMIN,
    });
  broker = await openBroker();
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

it("leads from the link to a request that arrives, and shows what proved each step", async () => {
  const { out } = await runServerProgram({ BOLD_RELAY_DATABASE_URL: databaseUrl }, "setup", "--url", service.url);
  const link = /http\S+/.exec(out)?.[0] ?? "";
  board = await walkFirstRun({ page, link, brokerCa: broker.devices?.ca ?? "", onStep: loseBroker });
  // What was entered wrongly is refused, and a browser notes that as an error of loading.
  expect(errors.filter((error) => !/status of (422|400)/.test(error))).toEqual([]);
});

/** In the middle of it the broker goes away: the step that proves it opens again, nothing is lost, and it goes on. */
async function loseBroker(step: string): Promise<void> {
  if (step !== "site") return;
  await broker.stop();
  await page.getByText("2 of 7 steps done").waitFor();
  await page.getByText("Start the broker, or correct its settings").waitFor();
  broker = await openBroker();
  await page.getByText("3 of 7 steps done").waitFor();
  await page.getByRole("form", { name: "New device" }).waitFor();
}

it("ends with the first owner: the link leads to the sign-in", async () => {
  const guest = await openPage(browser, []);
  await guest.goto(`${service.url}/setup#used-up`);
  await guest.getByText("This installation has an owner.").waitFor();
  await guest.close();
});
