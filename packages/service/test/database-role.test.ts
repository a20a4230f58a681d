/** The role that the service signs in with owns its own database, and may do nothing else in the cluster. */
import pg from "pg";
import { afterAll, beforeAll, describe, expect, inject, it } from "vitest";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
});
afterAll(() => world.stop());

describe("the database role", () => {
  it("is nobody special, and the service runs as it", async () => {
    const { rows } = await world.pool.query(
      `select current_user as name, rolsuper, rolcreatedb, rolcreaterole, rolreplication, rolbypassrls
       from pg_roles where rolname = current_user`,
    );
    expect(rows).toEqual([
      {
        name: "bold_relay",
        rolsuper: false,
        rolcreatedb: false,
        rolcreaterole: false,
        rolreplication: false,
        rolbypassrls: false,
      },
    ]);
    const { rows: connected } = await world.pool.query(
      "select distinct usename from pg_stat_activity where datname = current_database() and application_name = 'bold-relay'",
    );
    expect(connected).toEqual([{ usename: "bold_relay" }]);
    expect((await world.client.status()).database.up).toBe(true);
  });

  it.each([
    "create database more",
    "create role mole superuser",
    "alter role bold_relay superuser",
    "alter system set fsync = off",
    "select pg_read_file('/etc/passwd')",
    "copy (select 1) to program 'id'",
    "create extension adminpack",
    "select * from pg_authid",
  ])("cannot %s", async (attack) => {
    await expect(world.pool.query(attack)).rejects.toThrow(/permission denied|must be/);
  });

  it("is the only one that gets in there", async () => {
    const admin = new pg.Client(inject("databaseUrl"));
    await admin.connect();
    await admin.query("drop role if exists passer_by");
    await admin.query("create role passer_by login password 'passing'");
    await admin.end();
    const url = new URL(world.config.databaseUrl);
    url.username = "passer_by";
    url.password = "passing";
    const passerBy = new pg.Client(url.href);
    await expect(passerBy.connect()).rejects.toThrow(/permission denied/);
  });
});
