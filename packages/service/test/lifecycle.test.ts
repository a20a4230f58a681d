/** A start that fails leaves nothing behind, wherever it fails; a stop ends everything that was started. */
import { freePort } from "@bold-relay/rig";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createLog, type RunningService, startService, steadyClock } from "../src/index.ts";
import { databaseBackend } from "../src/store/writers.ts";
import { poll } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
const parts: string[] = [];

beforeAll(async () => {
  world = await createWorld();
  await world.client.saveInlet(
    { slug: "typed", name: "Typed", kind: "line", site: null, settings: { port: await freePort() } },
    0,
  );
  await world.client.saveInlet(
    {
      slug: "heard",
      name: "Heard",
      kind: "topic",
      site: null,
      routes: [{ when: { topic: "asked/{what}" }, do: { target: "{what}", action: "on" } }],
    },
    0,
  );
  await world.service.stop();
  const service = await start((part) => void parts.push(part));
  await service.stop();
});
afterAll(() => world.stop());

function start(onStarted: (part: string) => void): Promise<RunningService> {
  return startService(world.config, createLog("silent"), steadyClock, databaseBackend, onStarted);
}

/** Timers, sockets, servers and the like that keep a process alive, by kind. */
function resources(): Record<string, number> {
  const counts: Record<string, number> = {};
  for (const kind of process.getActiveResourcesInfo()) counts[kind] = (counts[kind] ?? 0) + 1;
  return counts;
}

/** The service's at the database; the test has one that is used, and idle ones. */
async function connections(): Promise<number> {
  const { rows } = await world.pool.query(
    "select count(*)::int as n from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()",
  );
  return rows[0].n - (world.pool.totalCount - 1);
}

/** Waits until there is no more of anything than before. */
async function nothingMoreThan(before: Record<string, number>): Promise<void> {
  await poll(
    () => Promise.resolve(resources()),
    (now) => Object.entries(now).every(([kind, count]) => count <= (before[kind] ?? 0)),
  );
}

describe("a start", () => {
  it("has parts of every stage", () => {
    expect(parts).toEqual(
      expect.arrayContaining([
        "notifications",
        "link",
        "status",
        "sweep",
        "inlets",
        "device users",
        "alerts",
        "streams",
      ]),
    );
  });

  it("that fails after any of its parts leaves no timer, socket, port or connection", async () => {
    const before = resources();
    for (const failing of parts) {
      const failed = start((part) => {
        if (part === failing) throw new Error(`planted after ${part}`);
      });
      await expect(failed).rejects.toThrow(`planted after ${failing}`);
      await nothingMoreThan(before);
      await poll(connections, (open) => open === 0);
    }
  });

  it("is tried again, and works, after one that failed", async () => {
    let failures = 2;
    const failing = () => {
      failures -= 1;
      if (failures >= 0) throw new Error("planted");
    };
    await expect(start(failing)).rejects.toThrow("planted");
    await expect(start(failing)).rejects.toThrow("planted");
    const service = await start(failing);
    await service.linked;
    await service.stop();
  });
});

describe("a stop", () => {
  it("ends everything that was started", async () => {
    const before = resources();
    const service = await start(() => {});
    await service.linked;
    await service.stop();
    await nothingMoreThan(before);
    await poll(connections, (open) => open === 0);
  });
});
