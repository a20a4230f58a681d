/** Gives a test run its own PostgreSQL cluster and broker in a throw-away folder. */
import { randomBytes } from "node:crypto";
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
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
  return async () => {
    await Promise.all([...brokers.map((broker) => broker.stop()), postgres.stop()]);
    rmSync(folder, { recursive: true, force: true });
  };
}
