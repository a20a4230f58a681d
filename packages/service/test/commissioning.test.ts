/** Proving a device: each fault is named, with what to try; what only a person can tell is asked of them. */
import type { CommissioningView, StepAnswerBody } from "@bold-relay/api";
import type { DeviceDescription } from "@bold-relay/core";
import { withDevice } from "@bold-relay/core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { poll, refusal, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld({ delivery: { ackWithinMs: 500, attempts: 2, settleMs: 500, ttlMs: 5_000 } });
});
afterAll(() => world.stop());

type Step = CommissioningView["steps"][number];

async function runOf(device: string): Promise<CommissioningView> {
  const [current] = await world.client.commissionings(world.address(device));
  if (!current) throw new Error("nothing runs");
  return current;
}

async function stepOf(device: string, name: string, isSo: (step: Step) => boolean): Promise<Step> {
  const found = await poll(
    async () => (await runOf(device)).steps.find((step) => step.name === name),
    (step) => step !== undefined && isSo(step),
  );
  return found as Step;
}

const over = ({ state }: Step) => ["passed", "failed", "skipped", "asks"].includes(state);

async function start(device: string): Promise<void> {
  await world.client.commission(world.address(device));
  await stepOf(device, "presence", over);
}

async function run(device: string, step: string): Promise<Step> {
  await tell(device, { step, answer: "go" });
  return stepOf(device, step, over);
}

const tell = (device: string, body: StepAnswerBody) => world.client.commissioningStep(world.address(device), body);

async function add(device: DeviceDescription): Promise<void> {
  const { site, version } = await world.client.site(world.site);
  await world.client.saveSite(withDevice(site, { slug: "annex", name: "Annex" }, device), version);
}

describe("a board that does what it should", () => {
  it("is proven from the first step to the last, and the record is kept", async () => {
    const board = await world.board("wren");
    await start("wren");
    expect(await stepOf("wren", "presence", over)).toMatchObject({ state: "passed" });
    for (const channel of ["porch", "hall", "path"]) {
      const step = await run("wren", `channel ${channel}`);
      expect(step).toMatchObject({
        state: "passed",
        text: expect.stringContaining("It executed on, off and reported it"),
      });
    }
    await tell("wren", { step: "hand", answer: "go" });
    await board.flip("hall");
    expect(await stepOf("wren", "hand", over)).toMatchObject({
      state: "passed",
      text: "Hall light became on, by hand, and it said so.",
    });
    await board.flip("hall");
    await tell("wren", { step: "power", answer: "go" });
    await stepOf("wren", "power", ({ state }) => state === "running");
    await board.powerCut();
    expect(await stepOf("wren", "power", over)).toMatchObject({
      state: "passed",
      text: expect.stringContaining("powered up anew"),
    });
    expect(await run("wren", "safe")).toMatchObject({ state: "passed" });
    expect((await runOf("wren")).finishedAt).not.toBeNull();
    await world.restart();
    expect(await runOf("wren")).toMatchObject({ startedBy: "Ines", finishedAt: expect.any(String) });
  });
});

describe("faults, by name", () => {
  it("a topic that is off by a letter", async () => {
    await world.board("finnch", { device: "finnch", channels: ["porch"] });
    await start("finch");
    const step = await stepOf("finch", "presence", over);
    expect(step).toMatchObject({ state: "failed", text: `No message was ever received on ${world.site}/finch/here.` });
    expect(step.tryThis).toContain(`${world.site}/finnch/here`);
    // It may be left out by name, and then the channel says the same.
    await tell("finch", { step: "presence", answer: "skip", note: "old firmware" });
    expect(await stepOf("finch", "presence", over)).toMatchObject({
      state: "skipped",
      text: "Skipped by Ines. “old firmware”",
    });
    expect(await run("finch", "channel porch")).toMatchObject({
      state: "failed",
      text: `Nobody listens on ${world.site}/finch/porch/do.`,
    });
  });

  it.each([
    ["refusing", "it refused"],
    ["lying", "did not report it"],
    ["silent", "It did not acknowledge on (no-acknowledgement)"],
  ] as const)("%s", async (fault, text) => {
    const board = await world.board("wren");
    await start("wren");
    await board.setFault(fault);
    expect(await run("wren", "channel path")).toMatchObject({ state: "failed", text: expect.stringContaining(text) });
    await board.setFault("none");
    expect(await run("wren", "channel path")).toMatchObject({ state: "passed" });
  });

  it("two outputs that are mixed up", async () => {
    const channels = ["left", "right"].map((slug) => ({ slug, name: `${slug} lamp`, kind: "relay" as const }));
    await add({ slug: "crossed", name: "crossed board", profile: "reporting", channels });
    const device = await world.listener();
    const say = (topic: string, text: object) =>
      device.publish(`${world.site}/crossed/${topic}`, JSON.stringify(text), { qos: 1 });
    device.on("message", (topic, payload) => {
      const channel = topic.split("/")[2] ?? "";
      const { id, to } = JSON.parse(payload.toString());
      say(`${channel}/done`, { id, ok: true });
      say(`${channel === "left" ? "right" : "left"}/is`, { to });
    });
    await device.subscribeAsync(`${world.site}/crossed/+/do`, { qos: 1 });
    device.publish(`${world.site}/crossed/here`, '{"up":true}', { retain: true, qos: 1 });
    for (const channel of ["left", "right"]) say(`${channel}/is`, { to: "off" });
    await untilChannel(world.client, world.address("crossed/right"), (one) => one.observed?.value === "off");
    await start("crossed");
    expect(await run("crossed", "channel left")).toMatchObject({
      state: "failed",
      text: expect.stringMatching(/answered, but .* is about right lamp, .* so nothing proves this channel/),
      tryThis: expect.stringMatching(/number|index/),
    });
  });

  it("payloads that mean nothing, a report the wrong way round, only retained state", async () => {
    const channels = ["garbled", "turned", "retained", "capital"].map((slug) => ({
      slug,
      name: slug,
      kind: "relay" as const,
    }));
    await add({ slug: "odd", name: "odd board", profile: "reporting", channels });
    const device = await world.listener();
    const say = (channel: string, text: string, retain = false) =>
      device.publish(`${world.site}/odd/${channel}/is`, text, { retain, qos: 1 });
    say("retained", '{"to":"on"}', true);
    device.publish(`${world.site}/odd/here`, '{"up":true}', { retain: true, qos: 1 });
    device.on("message", (topic, payload) => {
      const channel = topic.split("/")[2] ?? "";
      const { id, to } = JSON.parse(payload.toString());
      device.publish(`${world.site}/odd/${channel}/done`, JSON.stringify({ id, ok: true }), { qos: 1 });
      if (channel === "capital") say("Capital", JSON.stringify({ to, by: "command", id }));
      if (channel === "garbled") say(channel, "ON");
      if (channel === "turned") say(channel, JSON.stringify({ to: to === "on" ? "off" : "on" }));
    });
    await device.subscribeAsync(`${world.site}/odd/+/do`, { qos: 1 });
    await start("odd");
    expect(await run("odd", "channel garbled")).toMatchObject({
      state: "failed",
      text: expect.stringContaining("answered, but “ON” on "),
    });
    expect(await run("odd", "channel turned")).toMatchObject({
      state: "failed",
      text: expect.stringMatching(/“\{"to":"off"\}” on .*turned\/is reports another value/),
      tryThis: expect.stringContaining("“reversed” turns both directions"),
    });
    expect(await run("odd", "channel capital")).toMatchObject({
      state: "failed",
      tryThis: expect.stringMatching(/Messages arrive on .*odd\/Capital\/is, .*letter by letter, capitals too/),
    });
    expect(await run("odd", "channel retained")).toMatchObject({
      state: "failed",
      tryThis: expect.stringContaining("old retained report"),
    });
  });
});

describe("what only a person can tell", () => {
  it("is asked of them, and kept with their name", async () => {
    await world.board("dunlin", { reports: false });
    await start("dunlin");
    expect(await run("dunlin", "channel porch")).toMatchObject({
      state: "asks",
      text: expect.stringContaining("Did you see it switch?"),
    });
    await tell("dunlin", { step: "channel porch", answer: "turned" });
    expect(await stepOf("dunlin", "channel porch", over)).toMatchObject({
      state: "failed",
      by: "Ines",
      tryThis: expect.stringContaining("reversed"),
    });
    await run("dunlin", "channel porch");
    await tell("dunlin", { step: "channel porch", answer: "yes", note: "lamp lit" });
    expect(await stepOf("dunlin", "channel porch", over)).toMatchObject({
      state: "passed",
      text: "Ines saw it happen. “lamp lit”",
    });
    expect(await refusal(tell("dunlin", { step: "channel porch", answer: "no" }))).toBe("bad-request");
    expect(await refusal(tell("dunlin", { step: "channel attic", answer: "go" }))).toBe("not-found");
    expect(await refusal(world.client.commission(world.address("nowhere")))).toBe("not-found");
  });
});

describe("a run that the service's stop cuts off", () => {
  it("says so, and stands beside the one that is begun anew", async () => {
    await world.board("finch");
    await start("finch");
    await stepOf("finch", "presence", over);
    await world.restart();
    const [cut] = await world.client.commissionings(world.address("finch"));
    expect(cut).toMatchObject({ finishedAt: null, interrupted: true });
    await start("finch");
    const [anew, before] = await world.client.commissionings(world.address("finch"));
    expect(anew).toMatchObject({ interrupted: false });
    expect(before).toMatchObject({ id: cut?.id, interrupted: true });
  });
});
