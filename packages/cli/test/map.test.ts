/** The map from a shell: what can switch a channel, what an element reaches, findings, tables; and exit codes. */
import type { MapFindingView, MapReachPageView } from "@bold-relay/api";
import { afterAll, beforeAll, expect, it } from "vitest";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { commandLine } from "./support/run.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
  await world.board("wren");
  const routes = [
    { name: "one", when: { words: "one" }, do: { target: world.address("wren/porch"), action: "on" } },
    { name: "two", when: { words: "two" }, do: { target: world.address("wren/hall"), action: "on" } },
  ];
  await world.client.saveInlet({ slug: "words", name: "Words", kind: "hook", site: world.site, routes }, 0);
  await world.ask("wren/porch", "on");
});
afterAll(() => world.stop());

const run = commandLine(() => world);

it("tells what can switch a channel, by any of its names, with what was used first", async () => {
  const { out, code } = await run("map", "porch lantern, wren");
  expect(code).toBe(0);
  const [name, topic, obstacles, , head, ...rows] = out.split("\n");
  expect(name).toBe(`Porch lantern, Wren  ${world.address("wren/porch")}`);
  expect(topic).toBe(`Commands go to ${world.address("wren/porch")}/do`);
  expect(obstacles).toBe("No lock-out, no interlock and no offline device stands in the way now.");
  expect(head).toMatch(/^requested by +caught by +action +reaches +last used +uses$/);
  expect(rows[0]).toMatch(/^Ines.*Members at Alder Row.*by Ines +1$/);
  expect(out).toMatch(/nobody +Route 1 “one” of Words the words “one” +on +none counted +0/);
  expect(out).not.toContain("Route 2");
});

it("tells what an inlet, and the way of a request, can reach", async () => {
  expect((await run("map", "words")).out).toMatch(/Route 2 “two” of Words.*Hall light, Wren/);
  const { out } = await run("map", "--request", "last");
  expect(out.split("\n")[0]).toMatch(/^Ines/);
  expect(out).toContain("Everything at Alder Row");
});

it("prints JSON and a table for programs", async () => {
  const page = JSON.parse((await run("map", "words", "--json")).out) as MapReachPageView;
  expect(page.rows.map(({ caught }) => caught.id)).toEqual(["route:words/1", "route:words/2"]);
  const rows = (await run("map", "words", "--csv")).out.trim().split("\n");
  expect(rows).toHaveLength(3);
  // Nothing is called unused in the first week of counting.
  expect((await run("map", "--findings", "--json")).out).not.toContain('"unused"');
  await world.pool.query("update way_use set last_at = now() - interval '8 days' where way = ''");
  const findings = (await run("map", "--findings", "--json")).out.trim().split("\n");
  const kinds = findings.map((line) => (JSON.parse(line) as MapFindingView).kind);
  expect(kinds.filter((kind) => kind === "unused")).toHaveLength(2);
});

it("ends with 1, and offers what comes near, where nothing has the name", async () => {
  const { code, err } = await run("map", "porch lanterm, wren");
  expect(code).toBe(1);
  expect(err).toContain(`Nearest: ${world.address("wren/porch")}`);
});

it("tells in a preview which route a deleted group would leave without", async () => {
  await run("group", "add", world.site, "pair", "wren/porch", "wren/hall", "--name", "Pair");
  const routes = [{ when: { words: "both" }, do: { target: "pair", action: "on" } }];
  await world.client.saveInlet({ slug: "both", name: "Both", kind: "hook", site: world.site, routes }, 0);
  const { out } = await run("group", "delete", world.site, "pair", "--preview");
  expect(out).toContain(
    `→ Route 1 of Both no longer reaches ${world.address("wren/porch")}, ${world.address("wren/hall")}.`,
  );
});
