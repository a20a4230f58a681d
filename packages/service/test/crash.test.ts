/** The service dies with commands open: on its return each goes on, or ends in a stated way. */

import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { type ServiceProcess, serviceProcess } from "./support/process.ts";
import { poll } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let service: ServiceProcess;

beforeAll(async () => {
  world = await createWorld({
    start: false,
    delivery: { ackWithinMs: 400, attempts: 3, settleMs: 2_000, ttlMs: 20_000 },
  });
  service = await serviceProcess(world);
});
afterAll(async () => {
  await service.stop();
  await world.stop();
});

async function launch(): Promise<void> {
  await service.launch();
  expect(service.child().hasEnded()).toBe(false);
}

async function kill(): Promise<void> {
  service.child().kill("SIGKILL");
  expect(await service.child().ended).toBe("SIGKILL");
}

const client = () => service.client;
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
    expect(await ended(open.id)).toMatchObject({ outcome: "delivered", commands: [{ stage: "confirmed" }] });
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
    expect(ends.filter((end) => end === "delivered")).toHaveLength(1);
    expect(ends.every((end) => ["delivered", "replaced", "overtaken"].includes(String(end)))).toBe(true);
    const { rows } = await world.pool.query("select count(*)::int as open from open_command");
    expect(rows[0].open).toBe(0);
    const newest = requests.find((request) => request.commands[0]?.end === "delivered");
    expect(board.state.contacts.porch).toBe(newest?.commands[0]?.to);
    await kill();
  });

  it("one whose board stays silent ends unanswered, never twice", async () => {
    const { open } = await killWithOpen("finch/hall");
    await launch();
    expect(await ended(open.id)).toMatchObject({ outcome: "not-delivered", commands: [{ end: "unanswered" }] });
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
      for (let turn = 0; !service.child().hasEnded(); turn += 1) {
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
    await service.child().stop();
    expect(await service.child().ended).toBe(0);
    await board.setFault("none");
    await launch();
    expect((await ended(open.id)).outcome).toBe("delivered");
  });
});
