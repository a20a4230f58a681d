/** A site that is described again keeps the channels and the history of those that stay. */
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { saveSite } from "../src/store/model.ts";
import { inTransaction } from "../src/store/pool.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
});
afterAll(() => world.stop());

describe("a channel", () => {
  it("that is gone from a description is marked, and comes back as itself", async () => {
    const load = (slug: string, name: string) =>
      inTransaction(world.pool, (db) =>
        saveSite(
          db,
          {
            slug: world.site,
            name: "Alder Row",
            rooms: [
              {
                slug: "wren",
                name: "Wren",
                devices: [
                  { slug: "wren", name: "board", profile: "reporting", channels: [{ slug, name, kind: "light" }] },
                ],
              },
            ],
          },
          "the test",
        ),
      );
    const stored = async (slug: string) => {
      const { rows } = await world.pool.query<{ id: number; used: boolean }>(
        "select c.id, c.removed_at is null as used from channel c join device d on d.id = c.device_id where c.slug = $1 and d.slug = 'wren'",
        [slug],
      );
      return rows[0];
    };
    const before = await stored("porch");
    await load("hall", "Hall lamp");
    expect(await stored("porch")).toEqual({ id: before?.id, used: false });
    await load("porch", "Porch lamp");
    expect(await stored("porch")).toEqual({ id: before?.id, used: true });
    await world.restart();
    const { sites } = await world.client.board();
    expect(sites[0]?.channels.map((channel) => `${channel.number} ${channel.name}`)).toEqual(["1 Porch lamp"]);
  });
});
