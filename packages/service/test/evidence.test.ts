/** What comes in on `done` and `is`, sent by anybody with anything in it: never a crash, never a wrong claim. */
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { channelNow, poll, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld({ delivery: { ackWithinMs: 3_000, attempts: 1, settleMs: 500 } });
});
afterAll(() => world.stop());

/** Listens as the device would, and hands over each command. */
async function device(channel: string) {
  const mqtt = await world.listener();
  const heard: { id: string; to: string }[] = [];
  mqtt.on("message", (_topic, payload) => heard.push(JSON.parse(payload.toString())));
  await mqtt.subscribeAsync(world.address(`${channel}/do`), { qos: 1 });
  const say = (role: string, body: object | string, retain = false) =>
    mqtt.publishAsync(world.address(`${channel}/${role}`), typeof body === "string" ? body : JSON.stringify(body), {
      qos: 1,
      retain,
    });
  const next = async () => {
    const count = heard.length;
    const all = await poll(
      async () => heard,
      (now) => now.length > count,
    );
    return all.at(-1) as { id: string; to: string };
  };
  return { say, next };
}

describe("garbage", () => {
  it("on every topic of ours is ignored; the command beside it is confirmed", async () => {
    const { say, next } = await device("wren/porch");
    const heard = next();
    const asked = world.ask("wren/porch", "on");
    const { id } = await heard;
    const junk = [
      "",
      "on",
      "{",
      "[]",
      "null",
      "1e999",
      '{"id":7}',
      `{"id":"${id}"}`,
      `{"id":"${id}","ok":"yes"}`,
      `{"to":"${"x".repeat(9_000)}"}`,
    ];
    for (const one of junk) {
      await say("done", one);
      await say("is", one);
    }
    await say("is", { to: "sideways", id });
    const mqtt = await world.listener();
    await mqtt.publishAsync(world.address("wren/porch/is"), Buffer.from([0xff, 0xfe, 0x00]), { qos: 1 });
    await mqtt.publishAsync(world.address("nobody/nothing/is"), '{"to":"on"}', { qos: 1 });
    await mqtt.publishAsync(world.address("wren/here"), "maybe", { qos: 1 });
    await say("done", { id, ok: true, code: 1 });
    await say("is", { to: "on", by: "command", id });
    expect((await asked).outcome).toBe("delivered");
  });
});

describe("evidence in any order", () => {
  it("a report that beats the acknowledgement completes the command", async () => {
    const { say, next } = await device("wren/hall");
    const heard = next();
    const asked = world.ask("wren/hall", "on");
    const { id } = await heard;
    await say("is", { to: "on", by: "command", id });
    expect(await asked).toMatchObject({
      outcome: "delivered",
      commands: [{ stage: "confirmed", after: { acknowledged: null } }],
    });
  });

  it("repeated acknowledgements and reports change nothing more", async () => {
    const { say, next } = await device("wren/hall");
    const heard = next();
    const asked = world.ask("wren/hall", "off");
    const { id } = await heard;
    for (let turn = 0; turn < 3; turn += 1) await say("done", { id, ok: true });
    for (let turn = 0; turn < 3; turn += 1) await say("is", { to: "off", by: "command", id });
    const request = await asked;
    expect(request.outcome).toBe("delivered");
    const { traces } = await world.client.trace(request.id);
    expect(traces[0]?.hops.filter((hop) => hop.kind === "acknowledged")).toHaveLength(1);
  });
});

describe("what proves nothing", () => {
  it("another command's id, a hand at the wall, and a retained report do not confirm", async () => {
    const { say, next } = await device("wren/path");
    const heard = next();
    const asked = world.ask("wren/path", "on");
    const { id } = await heard;
    await say("done", { id, ok: true });
    await say("is", { to: "on", by: "command", id: "00000000-0000-7000-8000-000000000000" });
    await say("is", { to: "on", by: "hand" });
    expect(await asked).toMatchObject({
      outcome: "not-delivered",
      commands: [{ end: "unanswered", reason: "no-report" }],
    });
  });

  it("acknowledged and then contradicted is failed, with the value that was reported", async () => {
    const { say, next } = await device("wren/path");
    await say("is", { to: "off" });
    const heard = next();
    const asked = world.ask("wren/path", "on");
    const { id } = await heard;
    await say("done", { id, ok: true });
    await say("is", { to: "off", by: "command", id });
    expect(await asked).toMatchObject({ commands: [{ end: "failed", reason: "contradicted", stage: "acknowledged" }] });
  });

  it("a retained report is what is known at the start, and its cause is told", async () => {
    const { say } = await device("finch/porch");
    await say("is", { to: "on", by: "timer" }, true);
    await untilChannel(world.client, world.address("finch/porch"), (one) => one.observed?.cause === "timer");
    await world.restart();
    expect(await channelNow(world.client, world.address("finch/porch"))).toMatchObject({
      observed: { value: "on", cause: "timer" },
    });
  });
});
