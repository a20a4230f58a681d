/** One command and its device, over the real broker and journal: every way in which it can go. */
import type { RequestView } from "@bold-relay/api";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { poll, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
});
afterAll(() => world.stop());

function endOf(request: RequestView) {
  const [command] = request.commands;
  return { outcome: request.outcome, stage: command?.stage, end: command?.end, reason: command?.reason };
}

describe("a board that behaves", () => {
  it("is confirmed, and its trace has every hop with its bytes", async () => {
    const board = await world.board("wren");
    const request = await world.ask("wren/porch", "on");
    expect(endOf(request)).toEqual({ outcome: "delivered", stage: "confirmed", end: "delivered", reason: null });

    const { traces } = await world.client.trace(request.id);
    const [trace] = traces;
    expect(trace?.hops.map((hop) => hop.kind).sort()).toEqual(
      ["accepted", "acknowledged", "confirmed", "ended", "published", "sent"].sort(),
    );
    const times = trace?.hops.map((hop) => hop.afterMs) ?? [];
    expect(times).toEqual([...times].sort((one, other) => one - other));
    const id = trace?.command.id;
    expect(trace?.hops.find((hop) => hop.kind === "sent")?.wire).toEqual({
      topic: world.address("wren/porch/do"),
      payload: `{"id":"${id}","to":"on"}`,
    });
    expect(board.deeds.map(({ deed, to }) => `${deed} ${to}`)).toEqual(["heard on", "switched on"]);

    const channel = await untilChannel(world.client, world.address("wren/porch"), (one) => one.agreement === "agreed");
    expect(channel.observed).toMatchObject({ value: "on", cause: "command", commandId: id });
    expect(channel.commanded).toMatchObject({ value: "on", asker: "Ines", inlet: "API" });
  });

  it("is kept: the same answer comes after a restart", async () => {
    const before = await world.ask("wren/hall", "on");
    await world.restart();
    expect(await world.client.request(before.id)).toEqual(before);
    const channel = await untilChannel(world.client, world.address("wren/hall"), () => true);
    expect(channel).toMatchObject({
      agreement: "agreed",
      observed: { value: "on" },
      lastCommand: { id: before.commands[0]?.id },
    });
  });

  it("tells of a hand at the wall: observed and commanded are two facts", async () => {
    const board = await world.board("wren");
    await world.ask("wren/path", "on");
    await board.flip("path");
    const channel = await untilChannel(
      world.client,
      world.address("wren/path"),
      (one) => one.observed?.value === "off",
    );
    expect(channel).toMatchObject({ agreement: "drift", observed: { cause: "hand" }, commanded: { value: "on" } });
  });
});

describe("a board that cannot report", () => {
  it("completes at the acknowledgement, and is never shown as lit", async () => {
    await world.board("dunlin", { reports: false });
    const request = await world.ask("dunlin/porch", "on");
    expect(endOf(request)).toEqual({ outcome: "delivered", stage: "acknowledged", end: "delivered", reason: null });
    expect(request.commands[0]?.verdict.severity).toBe("weak");
    const channel = await untilChannel(world.client, world.address("dunlin/porch"), () => true);
    expect(channel.observed).toBeNull();
  });

  it("refuses to be asked for more than it can prove", async () => {
    const asked = world.client.ask({ target: world.address("dunlin/porch"), action: "on", until: "confirmed" });
    await expect(asked).rejects.toMatchObject({ problem: { code: "beyond-target-stage", status: 422 } });
  });
});

describe("a board that only reports changes", () => {
  it("asked for what it is already: confirmed, was already so; but not when it was away meanwhile", async () => {
    const world = await createWorld({ delivery: { reports: "onChange", settleMs: 300 } });
    const board = await world.board("finch", { onlyChanges: true });
    expect(endOf(await world.ask("finch/porch", "on"))).toMatchObject({ outcome: "delivered", stage: "confirmed" });
    const again = await world.ask("finch/porch", "on");
    expect(endOf(again)).toMatchObject({ outcome: "delivered", stage: "confirmed" });
    expect(again.commands[0]?.verdict.headline).toBe("Confirmed, no change.");

    // Its word from before a power cut proves nothing; only what it says after it does.
    const ear = await world.listener();
    await ear.publishAsync(world.address("finch/here"), '{"up":true,"boot":"another"}', { qos: 1 });
    const unsure = await world.ask("finch/porch", "on");
    expect(endOf(unsure)).toMatchObject({ stage: "acknowledged", end: "unanswered", reason: "no-report" });
    expect(board.state.contacts.porch).toBe("on");
    await world.stop();
  });
});

describe("a board that misbehaves", () => {
  it("silent: unanswered after every attempt, each with the same id", async () => {
    const world = await createWorld({ delivery: { ackWithinMs: 100 } });
    const board = await world.board("finch");
    await board.setFault("silent");
    const request = await world.ask("finch/porch", "on");
    expect(endOf(request)).toEqual({
      outcome: "not-delivered",
      stage: "published",
      end: "unanswered",
      reason: "no-acknowledgement",
    });
    expect(request.commands[0]?.attempts).toBe(3);
    expect(new Set(board.deeds.map((deed) => deed.id)).size).toBe(1);
    await world.stop();
  });

  it("refusing: failed, with the device's own code", async () => {
    const board = await world.board("finch");
    await board.setFault("refusing");
    const request = await world.ask("finch/porch", "on");
    expect(endOf(request)).toMatchObject({ outcome: "not-delivered", end: "failed", reason: "device-refused" });
    expect(request.commands[0]?.verdict.text).toContain("code 4");
    await board.setFault("none");
  });

  it("unplugged: the broker knows that nobody listens, and the board's last will is seen", async () => {
    const board = await world.board("finch");
    await board.setFault("unplugged");
    await untilChannel(world.client, world.address("finch/porch"), (one) => one.device.presence === "offline");
    const request = await world.ask("finch/porch", "on");
    expect(endOf(request)).toMatchObject({ end: "failed", reason: "nobody-listens", stage: "accepted" });
    await board.setFault("none");
    await untilChannel(world.client, world.address("finch/porch"), (one) => one.device.presence === "online");
  });

  it("slow: the asker is told at the stage asked for, the command goes on", async () => {
    const world = await createWorld({ delivery: { ackWithinMs: 10_000, settleMs: 10_000 } });
    const board = await world.board("finch", { slowMs: 300 });
    await board.setFault("slow");
    const early = await world.client.ask({ target: "finch/porch", action: "on", until: "published" }, { waitS: 20 });
    expect(early.outcome).toBe("open");
    const done = await poll(
      () => world.client.request(early.id),
      (request) => request.outcome !== "open",
    );
    expect(done.outcome).toBe("delivered");
    await world.stop();
  });
});

describe("many commands for one channel", () => {
  it("the newest wins, few are sent, every one has an end", async () => {
    const world = await createWorld({ delivery: { ackWithinMs: 1_000 } });
    const board = await world.board("finch", { switchMs: 40 });
    // The first is in flight for as long as it takes to ask for all of them.
    await board.setFault("silent");
    const asked = await Promise.all(
      Array.from({ length: 40 }, (_, index) =>
        world.client.ask({ target: "finch/porch", action: index % 2 ? "off" : "on" }),
      ),
    );
    await board.setFault("none");
    const last = await world.ask("finch/porch", "on");
    expect(last.outcome).toBe("delivered");
    const ends = await Promise.all(
      asked.map(({ id }) =>
        poll(
          () => world.client.request(id),
          (request) => request.outcome !== "open",
        ),
      ),
    );
    const sent = new Set(board.deeds.filter((deed) => deed.deed === "heard").map((deed) => deed.id));
    expect(sent.size).toBeLessThan(20);
    for (const { commands } of ends) {
      if (commands[0]?.end === "replaced") expect(sent.has(commands[0].id)).toBe(false);
    }
    expect(board.state.contacts.porch).toBe("on");
    await world.stop();
  });
});
