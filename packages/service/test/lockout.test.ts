/** Lock-out: hands in the panel. Nothing switches, whoever asks, until the holder lets go. */
import { createClient } from "@bold-relay/api";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { hashPassword, newKey, saveKey, saveMember, sha256 } from "../src/index.ts";
import { channelNow, poll } from "./support/until.ts";
import { createWorld, INLET, type World } from "./support/world.ts";

let world: World;
let tomasKey: string;

beforeAll(async () => {
  world = await createWorld({ delivery: { ackWithinMs: 300 } });
  await world.board("wren");
  await world.board("finch");
  tomasKey = newKey();
  const memberId = await saveMember(world.pool, "Tomas", await hashPassword("another password"), "operator");
  await saveKey(world.pool, { name: "test", tokenSha256: sha256(tomasKey), memberId });
});
afterAll(() => world.stop());

const tomas = () => createClient({ baseUrl: world.service.url, key: tomasKey });
const switched = async () => (await world.board("wren")).deeds.filter((deed) => deed.deed === "switched").length;

describe("a channel", () => {
  it("refuses every command with the holder's name, and the refusal is kept", async () => {
    const lockout = await tomas().lockOut({ target: "porch lantern, wren", reason: "changing the lamp" });
    const before = await switched();
    for (const ask of [
      () => world.client.ask({ target: "wren/porch", action: "on" }),
      () => tomas().ask({ target: "wren/porch", action: "on" }),
      () =>
        createClient({ baseUrl: world.service.url, key: world.inletKey }).ask(
          { target: "wren/porch", action: "on" },
          { inlet: INLET },
        ),
    ]) {
      const error = await ask().catch((caught) => caught);
      expect(error.problem).toMatchObject({ status: 423, code: "locked-out" });
      expect(error.problem.detail).toContain("Tomas has locked out");
      expect(await world.client.request(error.problem.request)).toMatchObject({
        outcome: "refused",
        refusal: { code: "locked-out" },
      });
    }
    expect((await world.ask("wren/hall", "on")).outcome).toBe("delivered");
    expect(await switched()).toBe(before + 1);
    expect(await channelNow(world.client, world.address("wren/porch"))).toMatchObject({
      lockout: { holder: "Tomas", reason: "changing the lamp" },
    });
    await tomas().release(lockout.id);
    expect((await world.ask("wren/porch", "on")).outcome).toBe("delivered");
  });

  it("is not taken twice; it is released by others only with a reason", async () => {
    const lockout = await tomas().lockOut({ target: "wren/porch" });
    const again = world.client.lockOut({ target: "wren porch lantern" });
    await expect(again).rejects.toMatchObject({ problem: { status: 409, code: "already-locked-out" } });
    await expect(world.client.release(lockout.id)).rejects.toMatchObject({ problem: { code: "release-needs-reason" } });
    await world.client.release(lockout.id, { reason: "Tomas has gone home" });
    const { rows } = await world.pool.query("select released_by, release_reason from lockout where id = $1", [
      lockout.id,
    ]);
    expect(rows[0]).toEqual({ released_by: "Ines", release_reason: "Tomas has gone home" });
    await expect(world.client.release(lockout.id)).rejects.toMatchObject({ problem: { code: "not-found" } });
  });
});

describe("a device", () => {
  it("holds every channel of it, and survives a restart", async () => {
    const lockout = await tomas().lockOut({ target: world.address("wren") });
    await world.restart();
    for (const channel of ["porch", "hall", "path"]) {
      await expect(world.ask(`wren/${channel}`, "off")).rejects.toMatchObject({ problem: { code: "locked-out" } });
    }
    expect((await world.ask("finch/porch", "on")).outcome).toBe("delivered");
    await tomas().release(lockout.id);
    expect((await world.ask("wren/porch", "off")).outcome).toBe("delivered");
  });
});

describe("what is on its way when the lock comes", () => {
  it("is not sent again, and what waits behind it never goes out", async () => {
    const board = await world.board("finch");
    await board.setFault("silent");
    const flying = await world.client.ask({ target: "finch/hall", action: "on" });
    const heard = () => board.deeds.filter((deed) => deed.channel === "hall").map((deed) => deed.id);
    await poll(
      async () => heard().length,
      (count) => count > 0,
    );
    const waiting = await world.client.ask({ target: "finch/hall", action: "off" });
    const lockout = await world.client.lockOut({ target: "finch/hall" });
    const ended = (id: string) =>
      poll(
        () => world.client.request(id),
        (request) => request.outcome !== "open",
      );
    expect((await ended(waiting.id)).commands[0]).toMatchObject({ end: "failed", reason: "locked-out", attempts: 0 });
    expect((await ended(flying.id)).commands[0]?.end).toBe("unanswered");
    expect(heard()).not.toContain(waiting.commands[0]?.id);
    await world.client.release(lockout.id);
    await board.setFault("none");
  });

  it("goes on for nobody after a restart", async () => {
    const board = await world.board("finch");
    await board.setFault("silent");
    const open = await world.client.ask({ target: "finch/path", action: "on" });
    await world.client.lockOut({ target: "finch/path" });
    await world.restart();
    await board.setFault("none");
    const request = await poll(
      () => world.client.request(open.id),
      (one) => one.outcome !== "open",
    );
    expect(request.commands[0]?.end).toBe("unanswered");
    expect(board.state.contacts.path).toBe("off");
  });
});
