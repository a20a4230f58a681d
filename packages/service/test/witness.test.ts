/**
 * Random faults under load, checked against what the boards themselves have noted: nothing is lost, nothing
 * is left without an end, and no end claims what did not happen.
 */

import { FAULTS, type RelayBoard } from "@bold-relay/standins";
import fc from "fast-check";
import { afterAll, beforeAll, expect, it } from "vitest";
import { poll } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let boards: RelayBoard[];

beforeAll(async () => {
  world = await createWorld({ delivery: { ackWithinMs: 120, attempts: 2, settleMs: 250, ttlMs: 3_000 } });
  boards = await Promise.all(["wren", "finch"].map((device) => world.board(device, { slowMs: 60, switchMs: 2 })));
});
afterAll(() => world.stop());

const CHANNELS = ["wren/porch", "wren/hall", "finch/porch", "finch/path"];

const turn = fc.record({
  board: fc.constantFrom(0, 1),
  fault: fc.constantFrom(...FAULTS),
  asks: fc.array(fc.record({ channel: fc.constantFrom(...CHANNELS), on: fc.boolean() }), {
    minLength: 1,
    maxLength: 12,
  }),
  flip: fc.option(fc.constantFrom("porch", "hall", "path")),
});

it("keeps its word whatever the boards do", async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(turn, { minLength: 2, maxLength: 5 }), async (turns) => {
      const asked: string[] = [];
      for (const { board, fault, asks, flip } of turns) {
        await boards[board]?.setFault(fault);
        const requests = await Promise.all(
          asks.map(({ channel, on }) => world.client.ask({ target: channel, action: on ? "on" : "off" })),
        );
        asked.push(...requests.map((request) => request.id));
        if (flip && fault !== "unplugged") await boards[board]?.flip(flip);
      }
      for (const board of boards) await board.setFault("none");
      await judge(asked);
    }),
    { numRuns: 8 },
  );
}, 120_000);

async function judge(asked: readonly string[]): Promise<void> {
  const did = (id: string, deed: string) =>
    boards.some((board) => board.deeds.some((one) => one.id === id && one.deed === deed));
  for (const id of asked) {
    const request = await poll(
      () => world.client.request(id),
      (one) => one.outcome !== "open",
      { what: "an outcome", withinMs: 110_000 },
    );
    const [command] = request.commands;
    const story = `${command?.end} ${command?.reason} ${id}`;
    switch (command?.end) {
      case "delivered":
        expect(did(command.id, "switched"), `confirmed, and the board did not switch: ${story}`).toBe(true);
        break;
      case "replaced":
      case "expired":
        expect(did(command.id, "heard"), `never sent, and the board heard it: ${story}`).toBe(false);
        break;
      case "failed":
        if (command.reason === "device-refused") expect(did(command.id, "refused"), story).toBe(true);
        if (command.reason === "nobody-listens") expect(did(command.id, "heard"), story).toBe(false);
        break;
      default:
        expect(["unanswered", "overtaken"], story).toContain(command?.end);
    }
  }
  const { rows } = await world.pool.query(
    `select (select count(*)::int from open_command) as open,
            (select count(*)::int from command where request_id = any($1::uuid[])) as ends`,
    [asked],
  );
  expect(rows[0]).toEqual({ open: 0, ends: asked.length });
}
