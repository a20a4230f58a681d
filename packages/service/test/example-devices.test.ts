/** The devices of `examples/`, each written from the protocol page alone: they pass the whole commissioning of the real service. */
import type { CommissioningView, StepAnswerBody } from "@bold-relay/api";
import { withDevice } from "@bold-relay/core";
import { afterAll, beforeAll, expect, inject, it } from "vitest";
import { type RunningExample, startExample } from "./support/examples.ts";
import { brokerUrl } from "./support/servers.ts";
import { poll, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

const EXAMPLES = ["lamp.py", "lamp.mjs", "lamp.c", "lamp.sh"] as const;

let world: World;
const running: RunningExample[] = [];

beforeAll(async () => {
  world = await createWorld();
  const { site, version } = await world.client.site(world.site);
  const room = { slug: "bench", name: "Bench" };
  const described = EXAMPLES.reduce((before, example) => {
    const channels = [
      { slug: "lamp", name: `Lamp ${example}`, kind: "light", delivery: { timesItself: true } },
    ] as const;
    return withDevice(before, room, { slug: deviceOf(example), name: example, profile: "reporting", channels });
  }, site);
  await world.client.saveSite(described, version);
});
afterAll(async () => {
  await Promise.all(running.map((one) => one.cutPower()));
  await world.stop();
});

const deviceOf = (example: string) => example.replace(".", "-");

function start(example: string): RunningExample {
  const { hostname, port } = new URL(brokerUrl());
  const device = startExample(`devices/${example}`, {
    BROKER: hostname,
    PORT: port,
    MQTT_USER: "tester",
    MQTT_PASSWORD: inject("brokerPassword"),
    TOPIC: world.address(`${deviceOf(example)}/lamp`),
    // The run's broker knows one user for all: the client id is what tells them apart.
    CLIENT_ID: `${world.site}.${deviceOf(example)}`,
  });
  running.push(device);
  return device;
}

type Step = CommissioningView["steps"][number];

async function stepOf(device: string, name: string, isSo: (step: Step) => boolean): Promise<Step> {
  const step = await poll(
    async () => (await world.client.commissionings(world.address(device)))[0]?.steps.find((one) => one.name === name),
    (found) => found !== undefined && isSo(found),
    { what: `the step ${name} of ${device}`, withinMs: 90_000 },
  );
  return step as Step;
}

const isOver = ({ state }: Step) => ["passed", "failed", "skipped", "asks"].includes(state);

it.each(EXAMPLES)(
  "%s passes link, presence, channel, hand, power cut and safe state, and times itself",
  async (example) => {
    const device = deviceOf(example);
    const lamp = world.address(`${device}/lamp`);
    const tell = (body: StepAnswerBody) => world.client.commissioningStep(world.address(device), body);
    const go = (step: string) => tell({ step, answer: "go" });
    let program = start(example);
    await untilChannel(world.client, lamp, ({ device, observed }) => device.presence === "online" && observed !== null);

    await world.client.commission(world.address(device));
    expect(await stepOf(device, "presence", isOver)).toMatchObject({ state: "passed" });
    await go("channel lamp");
    expect(await stepOf(device, "channel lamp", isOver)).toMatchObject({ state: "passed" });

    await go("hand");
    await stepOf(device, "hand", ({ state }) => state === "running");
    program.press();
    expect(await stepOf(device, "hand", isOver)).toMatchObject({
      state: "passed",
      text: expect.stringContaining("by hand"),
    });

    await go("power");
    await stepOf(device, "power", ({ state }) => state === "running");
    await program.cutPower();
    await untilChannel(world.client, lamp, ({ device }) => device.presence === "offline");
    program = start(example);
    expect(await stepOf(device, "power", isOver)).toMatchObject({ state: "passed" });
    await go("safe");
    expect(await stepOf(device, "safe", isOver)).toMatchObject({ state: "passed" });

    const asked = await world.ask(`${device}/lamp`, "on", 30, { forMs: 300 });
    expect(asked.outcome).toBe("delivered");
    const timed = await untilChannel(world.client, lamp, ({ observed }) => observed?.cause === "timer");
    expect(timed.observed?.value).toBe("off");
    await program.cutPower();
  },
  180_000,
);
