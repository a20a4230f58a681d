/** Idempotency-Key: however often a call is made, and however many at once, it is sent once. */
import { afterAll, beforeAll, expect, it } from "vitest";
import { createWorld, INLET, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
  await world.board("wren");
});
afterAll(() => world.stop());

const on = { target: "wren/porch", action: "on" };
const heard = async () => (await world.board("wren")).deeds.filter((deed) => deed.deed === "heard").length;

it("twenty calls at once are one request, and each is told its outcome", async () => {
  const before = await heard();
  const calls = Array.from({ length: 20 }, () => world.client.ask(on, { repeatKey: "together", waitS: 20 }));
  const answers = await Promise.all(calls);
  expect(new Set(answers.map((answer) => answer.id)).size).toBe(1);
  expect(answers.map((answer) => answer.outcome)).toEqual(answers.map(() => "delivered"));
  expect(await heard()).toBe(before + 1);
});

it("is known after a restart, and told as it is now", async () => {
  const first = await world.client.ask(on, { repeatKey: "later", waitS: 20 });
  await world.restart();
  const before = await heard();
  expect(await world.client.ask(on, { repeatKey: "later" })).toEqual(first);
  expect(await heard()).toBe(before);
});

it("another body with the same key is refused, with the request that used it", async () => {
  const first = await world.client.ask(on, { repeatKey: "taken" });
  const other = world.client.ask({ ...on, action: "off" }, { repeatKey: "taken" });
  await expect(other).rejects.toMatchObject({ problem: { code: "repeat-key-reused", status: 422, request: first.id } });
});

it("a refusal is repeated in the same words, and kept once", async () => {
  const ask = () =>
    world.client.ask({ target: "wren/porhc", action: "on" }, { repeatKey: "refused" }).catch((error) => error.problem);
  const [first, second] = [await ask(), await ask()];
  expect(first).toMatchObject({ code: "unknown-channel" });
  expect(second).toEqual(first);
});

it("different askers may use the same key", async () => {
  const mine = await world.client.ask(on, { repeatKey: "shared", waitS: 20 });
  const response = await fetch(`${world.service.url}/in/${INLET}`, {
    method: "POST",
    headers: {
      authorization: `Bearer ${world.inletKey}`,
      "content-type": "application/json",
      "idempotency-key": "shared",
    },
    body: JSON.stringify(on),
  });
  expect((await response.json()).id).not.toBe(mine.id);
});

it("a key that is none is refused", async () => {
  await expect(world.client.ask(on, { repeatKey: "x".repeat(300) })).rejects.toMatchObject({
    problem: { code: "bad-request" },
  });
});
