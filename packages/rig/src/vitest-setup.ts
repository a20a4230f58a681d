/** Gives a test run its own PostgreSQL cluster and broker in a throw-away folder. */
import { randomBytes } from "node:crypto";
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import type {} from "vitest";
import type { TestProject } from "vitest/node";
import { startBroker } from "./broker.ts";
import { findPrograms } from "./needs.ts";
import { freePort } from "./port.ts";
import { startPostgres } from "./postgres.ts";

declare module "vitest" {
  interface ProvidedContext {
    /** Connection URI of the cluster's own database; tests make theirs beside it. */
    databaseUrl: string;
    brokerUrl: string;
    brokerPassword: string;
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
  const broker = await startBroker({
    programs,
    folder: path.join(folder, "broker"),
    port: await freePort(),
    users: [{ name: "tester", password, topics: "service" }],
  });
  project.provide("databaseUrl", postgres.url("postgres"));
  project.provide("brokerUrl", broker.url);
  project.provide("brokerPassword", password);
  return async () => {
    await Promise.all([broker.stop(), postgres.stop()]);
    rmSync(folder, { recursive: true, force: true });
  };
}
