/** Gives a test run its own PostgreSQL cluster and broker in a throw-away folder, and the command line as packages ship it. */
import { execFile } from "node:child_process";
import { randomBytes } from "node:crypto";
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { promisify } from "node:util";
import type {} from "vitest";
import type { TestProject } from "vitest/node";
import { type Broker, startBroker } from "./broker.ts";
import { findPrograms } from "./needs.ts";
import { freePort } from "./port.ts";
import { startPostgres } from "./postgres.ts";

declare module "vitest" {
  interface ProvidedContext {
    /** Connection URI of the cluster's own database; tests make theirs beside it. */
    databaseUrl: string;
    /** One for each file of tests that may run at the same time. */
    brokerUrls: readonly string[];
    brokerPassword: string;
    /** The command line, joined into few files: tests start it some hundred times, and from its sources it starts three times as slowly. */
    cliProgram: string;
  }
}

export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-test-"));
  chmodSync(folder, 0o755);
  const password = randomBytes(12).toString("hex");
  const programs = findPrograms();
  const postgres = await startPostgres({
    programs,
    folder: path.join(folder, "database"),
    port: await freePort(),
    password,
    fsync: false,
  });
  const brokers: Broker[] = [];
  for (let worker = 0; worker < (project.config.maxWorkers ?? 1); worker += 1)
    brokers.push(
      await startBroker({
        programs,
        folder: path.join(folder, `broker-${worker}`),
        port: await freePort(),
        users: [{ name: "tester", password, topics: "service" }],
      }),
    );
  project.provide("databaseUrl", postgres.url("postgres"));
  project.provide(
    "brokerUrls",
    brokers.map(({ url }) => url),
  );
  project.provide("brokerPassword", password);
  if (project.name === "service") project.provide("cliProgram", await buildCli());
  return async () => {
    await Promise.all([...brokers.map((broker) => broker.stop()), postgres.stop()]);
    rmSync(folder, { recursive: true, force: true });
  };
}

async function buildCli(): Promise<string> {
  const root = fileURLToPath(new URL("../../../", import.meta.url));
  const vite = path.join(root, "node_modules/vite/bin/vite.js");
  const cwd = path.join(root, "packages/cli");
  await promisify(execFile)(process.execPath, [vite, "build", "--logLevel", "warn"], { cwd });
  return path.join(cwd, "dist/bundle/main.js");
}
