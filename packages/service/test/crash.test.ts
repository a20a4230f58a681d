/** The service dies with commands open: on its return each goes on, or ends in a stated way. */

import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { createClient } from "@bold-relay/api";
import { type Child, eventually, freePort, startChild } from "@bold-relay/rig";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { poll } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

const MAIN = fileURLToPath(new URL("../dist/main.js", import.meta.url));

let world: World;
let folder: string;
let child: Child;
let url: string;

beforeAll(async () => {
  world = await createWorld({
    start: false,
    delivery: { ackWithinMs: 400, attempts: 3, settleMs: 2_000, ttlMs: 20_000 },
  });
  folder = mkdtempSync(path.join(tmpdir(), "bold-relay-crash-"));
  url = `http://127.0.0.1:${await freePort()}`;
});
afterAll(async () => {
  await child?.stop();
  await world.stop();
  rmSync(folder, { recursive: true, force: true });
});

/** The service as it is run for real: a process of its own. */
async function launch(): Promise<void> {
  const { config } = world;
  child = startChild({
    name: "service",
    command: process.execPath,
    args: [MAIN],
    logFile: path.join(folder, "service.log"),
    pidFile: path.join(folder, "service.pid"),
    env: {
      BOLD_RELAY_DATABASE_URL: config.databaseUrl,
      BOLD_RELAY_BROKER_URL: config.brokerUrl,
      BOLD_RELAY_BROKER_USER: config.brokerUser ?? "",
      BOLD_RELAY_BROKER_PASSWORD: config.brokerPassword ?? "",
      BOLD_RELAY_BROKER_CLIENT_ID: config.brokerClientId,
      BOLD_RELAY_PORT: new URL(url).port,
    },
  });
  const ready = async () => (await fetch(`${url}/health/ready`).catch(() => null))?.ok === true;
  expect(await eventually(ready, 30_000, child.hasEnded)).toBe(true);
}

async function kill(): Promise<void> {
  child.kill("SIGKILL");
  expect(await child.ended).toBe("SIGKILL");
}

const client = () => createClient({ baseUrl: url, key: world.key });
const ended = (id: string) =>
  poll(
    () => client().request(id),
    (request) => request.outcome !== "open",
  );

/** Asks a silent board, and kills the service once the board has heard it. */
async function killWithOpen(target: string) {
  const board = await world.board("finch");
  await board.setFault("silent");
  await launch();
  const open = await client().ask({ target, action: "on" });
  const id = open.commands[0]?.id;
  await poll(
    async () => board.deeds.some((deed) => deed.id === id),
    (heard) => heard,
  );
  await kill();
  return { board, open };
}

describe("kill -9 with commands open", () => {
  it("a command that nobody answered goes on, and is confirmed when the board is cured", async () => {
    const { board, open } = await killWithOpen("finch/porch");
    await board.setFault("none");
    await launch();
    expect(await ended(open.id)).toMatchObject({ outcome: "complete", commands: [{ stage: "confirmed" }] });
    const { traces } = await client().trace(open.id);
    expect(traces[0]?.hops.map((hop) => hop.kind)).toContain("recovered");
    expect(board.state.contacts.porch).toBe("on");
    await kill();
  });

  it("of several for one channel only the newest goes on; none is doubled under another id, none is left open", async () => {
    const board = await world.board("wren");
    await board.setFault("silent");
    await launch();
    const asks = Array.from({ length: 12 }, (_, index) =>
      client().ask({ target: "wren/porch", action: index % 2 ? "on" : "off" }),
    );
    const ids = (await Promise.all(asks)).map((request) => request.id);
    await poll(
      async () => board.deeds.length,
      (heard) => heard > 0,
    );
    await kill();
    await board.setFault("none");
    await launch();
    const requests = await Promise.all(ids.map(ended));
    const ends = requests.map((request) => request.commands[0]?.end);
    expect(ends.filter((end) => end === "complete")).toHaveLength(1);
    expect(ends.every((end) => ["complete", "superseded", "overtaken"].includes(String(end)))).toBe(true);
    const { rows } = await world.pool.query("select count(*)::int as open from open_command");
    expect(rows[0].open).toBe(0);
    const newest = requests.find((request) => request.commands[0]?.end === "complete");
    expect(board.state.contacts.porch).toBe(newest?.commands[0]?.to);
    await kill();
  });

  it("one whose board stays silent ends unanswered, never twice", async () => {
    const { open } = await killWithOpen("finch/hall");
    await launch();
    expect(await ended(open.id)).toMatchObject({ outcome: "not-at-all", commands: [{ end: "unanswered" }] });
    const { rows } = await world.pool.query("select count(*)::int as kept from command where request_id = $1", [
      open.id,
    ]);
    expect(rows[0].kept).toBe(1);
    await kill();
  });

  it("under load: everything that was answered 202 has exactly one end after the return", async () => {
    await (await world.board("finch")).setFault("none");
    await (await world.board("wren")).setFault("none");
    await launch();
    const kept: string[] = [];
    const channels = ["finch/porch", "finch/hall", "finch/path", "wren/porch", "wren/hall", "wren/path"];
    const asker = async (channel: string) => {
      for (let turn = 0; !child.hasEnded(); turn += 1) {
        const request = await client()
          .ask({ target: channel, action: turn % 2 ? "on" : "off" })
          .catch(() => null);
        if (request) kept.push(request.id);
      }
    };
    const load = channels.map(asker);
    await poll(
      async () => kept.length,
      (count) => count > 60,
    );
    await kill();
    await Promise.all(load);
    await launch();
    await Promise.all(kept.map(ended));
    const { rows } = await world.pool.query(
      "select count(*)::int as ends, count(distinct request_id)::int as requests from command where request_id = any($1::uuid[])",
      [kept],
    );
    expect(rows[0]).toEqual({ ends: kept.length, requests: kept.length });
  });
});

describe("SIGTERM", () => {
  it("ends the service with 0, and open commands go on after the next start", async () => {
    const board = await world.board("finch");
    await board.setFault("silent");
    const open = await client().ask({ target: "finch/path", action: "on" });
    await child.stop();
    expect(await child.ended).toBe(0);
    await board.setFault("none");
    await launch();
    expect((await ended(open.id)).outcome).toBe("complete");
  });
});
