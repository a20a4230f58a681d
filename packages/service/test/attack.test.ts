/** The attacks that anybody may try on an installation of their own, on a service with its console: none gets what it wants. */
import path from "node:path";
import { fileURLToPath } from "node:url";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { attempts } from "../../soak/src/attack/attempts.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  const consoleDir = path.join(path.dirname(fileURLToPath(import.meta.url)), "../../console/dist");
  world = await createWorld({ consoleDir });
});
afterAll(() => world.stop());

describe("an attack from outside", () => {
  it.each(attempts.map((attempt) => [attempt.aim, attempt] as const))("cannot %s", async (_aim, attempt) => {
    expect(await attempt.run({ url: world.service.url, key: world.key })).toBeNull();
    const alive = await fetch(`${world.service.url}/health/live`);
    expect(alive.status).toBe(200);
    await alive.body?.cancel();
  });

  it("has made nobody and no key", async () => {
    expect((await world.client.members()).map(({ name }) => name)).toEqual(["Ines"]);
    expect((await world.client.keys()).map(({ name }) => name)).toEqual(["test", "test"]);
  });
});
