/** A transaction on a real database, whose connection breaks. */
import { afterAll, beforeAll, expect, it } from "vitest";
import { inTransaction } from "../src/store/pool.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld({ start: false });
});
afterAll(() => world.stop());

it("a connection that breaks between two statements fails its transaction, and nothing else", async () => {
  const work = inTransaction(world.pool, async (db) => {
    const { rows } = await db.query<{ pid: number }>("select pg_backend_pid() as pid");
    const broken = new Promise((resolve) => db.once("end", resolve));
    await world.pool.query("select pg_terminate_backend($1)", [rows[0]?.pid]);
    await broken;
    await db.query("select 1");
  });
  await expect(work).rejects.toThrow();
  const { rows } = await inTransaction(world.pool, (db) => db.query("select 1 as one"));
  expect(rows).toEqual([{ one: 1 }]);
});
