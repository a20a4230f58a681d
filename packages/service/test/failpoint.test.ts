/** The service dies between any two effects: whatever was asked has exactly one end after its return. */

import type { RelayBoard } from "@bold-relay/standins";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { FAILPOINTS, type Failpoint } from "../src/platform/failpoint.ts";
import { describePlover, PLOVER, ploverProfiles } from "./support/plover.ts";
import { type ServiceProcess, serviceProcess } from "./support/process.ts";
import { poll } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let service: ServiceProcess;
let board: RelayBoard;

beforeAll(async () => {
  world = await createWorld({ start: false, describe: describePlover, profiles: ploverProfiles });
  service = await serviceProcess(world);
  board = await world.board("plover", PLOVER);
});
afterAll(async () => {
  await service.stop();
  await world.stop();
});

/** Asks with the failpoint armed, until the service has died there. */
async function dieAt(failpoint: Failpoint, ask: { target: string; action: string; forMs?: number }, repeatKey: string) {
  await service.launch({ BOLD_RELAY_FAILPOINT: failpoint });
  // It may die before it can answer.
  await service.client.ask(ask, { repeatKey }).catch(() => null);
  expect(await service.child().ended).toBe("SIGKILL");
}

/** Starts it again, makes the same call, and waits for its end. */
async function askAgain(ask: { target: string; action: string; forMs?: number }, repeatKey: string) {
  await service.launch();
  const { id } = await service.client.ask(ask, { repeatKey });
  return poll(
    () => service.client.request(id),
    (request) => request.outcome !== "open",
  );
}

async function journal(id: string) {
  const { rows } = await world.pool.query(
    `select (select count(*)::int from command where request_id = $1) as ends,
       (select count(*)::int from open_command) as open`,
    [id],
  );
  return rows[0];
}

const OF_PULSES: readonly Failpoint[] = ["before-sending-commit", "after-sending-commit"];
const OF_DEADLINES: readonly Failpoint[] = ["before-deadline-commit", "after-deadline-commit"];
const ofAll = FAILPOINTS.filter((one) => !OF_PULSES.includes(one) && !OF_DEADLINES.includes(one));

describe("a relay", () => {
  it.each(ofAll)("%s", async (failpoint) => {
    const ask = { target: world.address("plover/heat"), action: board.state.contacts.heat === "on" ? "off" : "on" };
    await dieAt(failpoint, ask, `relay ${failpoint}`.replaceAll(" ", "-"));
    const request = await askAgain(ask, `relay-${failpoint}`);
    expect([failpoint, request.outcome, await journal(request.id)]).toEqual([
      failpoint,
      "delivered",
      { ends: 1, open: 0 },
    ]);
    expect(board.state.contacts.heat).toBe(ask.action);
    await service.child().stop();
  });
});

describe("a gate, which must never be pulsed twice", () => {
  // It goes out at QoS 0 and reports nothing: there is neither a receipt nor a report to die on.
  const ofGates = ofAll.filter((one) => one !== "on-receipt" && one !== "on-report");

  it.each([...ofGates, ...OF_PULSES])("%s", async (failpoint) => {
    const ask = { target: world.address("plover/gate"), action: "pulse" };
    const heard = () => board.deeds.filter((one) => one.channel === "gate" && one.deed === "heard").length;
    const before = heard();
    await dieAt(failpoint, ask, `gate-${failpoint}`);
    const request = await askAgain(ask, `gate-${failpoint}`);
    const { end } = request.commands[0] ?? {};
    expect([failpoint, await journal(request.id)]).toEqual([failpoint, { ends: 1, open: 0 }]);
    expect(heard() - before).toBeLessThanOrEqual(1);
    if (end === "delivered") expect(heard() - before).toBe(1);
    else expect([failpoint, end]).toEqual([failpoint, "unanswered"]);
    await service.child().stop();
  });
});

describe("a pump that must go off again", () => {
  it.each(OF_DEADLINES)("%s", async (failpoint) => {
    const ask = { target: world.address("plover/pump"), action: "on", forMs: 300 };
    await dieAt(failpoint, ask, `pump-${failpoint}`);
    expect(board.state.contacts.pump).toBe("on");
    await service.launch();
    await poll(
      async () => board.state.contacts.pump,
      (is) => is === "off",
    );
    const { rows } = await poll(
      () => world.pool.query("select (select count(*) from deadline) + (select count(*) from open_command) as left"),
      ({ rows: [row] }) => Number(row.left) === 0,
    );
    expect(rows).toHaveLength(1);
    await service.child().stop();
  });
});
