/** The rules of the delivery contract that keep hands, gates and motors safe, against a real broker and journal. */
import type { RelayBoard } from "@bold-relay/standins";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { describePlover, PLOVER, ploverProfiles, SHED } from "./support/plover.ts";
import { poll, refusal, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let board: RelayBoard;

beforeAll(async () => {
  world = await createWorld({ describe: describePlover, profiles: ploverProfiles });
  board = await world.board("plover", PLOVER);
  await known("plover/sign");
});
afterAll(() => world.stop());
beforeEach(() => board.setFault("none"));

const known = (channel: string) =>
  untilChannel(
    world.client,
    world.address(channel),
    (one) => one.observed !== null && one.device.presence === "online",
  );
const becomes = (channel: string, text: string) =>
  untilChannel(world.client, world.address(channel), (one) => one.observed?.text === text);

const heard = (channel: string) => board.deeds.filter((one) => one.channel === channel && one.deed === "heard");

describe("relative wishes", () => {
  it("three quick “brighter” make three steps, each an absolute setpoint", async () => {
    await world.ask("plover/dim", "level", 20, { value: 20 });
    const three = await Promise.all([1, 2, 3].map(() => world.ask("plover/dim", "brighter")));
    expect(three.map((one) => one.commands[0]?.to).sort()).toEqual([30, 40, 50]);
    await becomes("plover/dim", "50 %");
  });

  it("clamps what is beyond the range, and keeps what was asked", async () => {
    const request = await world.ask("plover/dim", "level", 20, { value: 140 });
    expect([request.value, request.commands[0]?.to, request.outcome]).toEqual([140, 100, "delivered"]);
  });

  it("goes back to what it was, and refuses where nobody knows what it is", async () => {
    await world.ask("plover/dim", "level", 20, { value: 80 });
    await world.ask("plover/dim", "level", 20, { value: 10 });
    expect((await world.ask("plover/dim", "back")).commands[0]?.to).toBe(80);
    expect(await refusal(world.ask("shed/left", "toggle"))).toBe("nothing-to-start-from");
  });
});

describe("groups and scenes", () => {
  it("are one request with a command for each, and one outcome", async () => {
    const scene = await world.ask("evening", "recall");
    expect(scene.commands.map(({ to, end }) => [to, end])).toEqual([
      [35, "delivered"],
      ["on", "delivered"],
    ]);
    expect(scene.outcome).toBe("delivered");
    expect((await world.client.request(scene.id)).commands).toHaveLength(2);
  });

  it("say how many did not get there: one member that is locked out ends at once, the others go on", async () => {
    const hold = await world.client.lockOut({ target: world.address("plover/heat"), reason: "hands in it" });
    const request = await world.ask("heaters", "on");
    await world.client.release(hold.id);
    expect(request.outcome).toBe("partly-delivered");
    expect(request.commands.map(({ end, reason }) => [end, reason])).toEqual([
      ["failed", "locked-out"],
      ["delivered", null],
    ]);
  });
});

describe("a pulse", () => {
  it("goes out once, on record before it is written; a second one is refused meanwhile", async () => {
    await board.setFault("silent");
    const before = heard("gate").length;
    const first = world.ask("plover/gate", "pulse");
    await poll(
      async () => heard("gate").length,
      (times) => times > before,
    );
    expect(await refusal(world.ask("plover/gate", "pulse"))).toBe("pulse-open");
    const request = await first;
    expect(request.commands[0]).toMatchObject({ end: "unanswered", attempts: 1 });
    expect(heard("gate")).toHaveLength(before + 1);
    const { traces } = await world.client.trace(request.id);
    expect(traces[0]?.hops.map((hop) => hop.kind)).toEqual(["accepted", "sending", "sent", "ended"]);
  });

  it("is done when the board says so", async () => {
    expect((await world.ask("plover/gate", "pulse")).outcome).toBe("delivered");
  });
});

describe("an interlock", () => {
  it("switches the partner off, waits until it is seen off and for its gap, then goes on", async () => {
    await world.ask("plover/vent-up", "on");
    const request = await world.ask("plover/vent-down", "on");
    expect(request.commands.map(({ channel, to, end }) => [channel.split("/").at(-1), to, end])).toEqual([
      ["vent-up", "off", "delivered"],
      ["vent-down", "on", "delivered"],
    ]);
    const deeds = board.deeds.filter((one) => one.deed === "switched" && one.channel.startsWith("vent"));
    const [off, on] = deeds.slice(-2);
    expect([off?.channel, on?.channel]).toEqual(["vent-up", "vent-down"]);
    expect((on?.at ?? 0) - (off?.at ?? 0)).toBeGreaterThanOrEqual(119);
  });

  it("fails when nothing proves that the partner is off", async () => {
    await world.ask("plover/vent-down", "on");
    await board.setFault("lying");
    const request = await world.ask("plover/vent-up", "on");
    expect(request.commands.map(({ channel, reason }) => [channel.split("/").at(-1), reason])).toEqual([
      ["vent-down", "no-report"],
      ["vent-up", "interlock-unproven"],
    ]);
    expect(board.state.contacts).toMatchObject({ "vent-down": "on", "vent-up": "off" });
  });
});

describe("what must go off again", () => {
  it("is switched off when its time is over, by a request of its own", async () => {
    const request = await world.ask("plover/heat", "on", 20, { forMs: 400 });
    expect(request.commands[0]?.forMs).toBe(400);
    await becomes("plover/heat", "off");
    const { requests } = await world.client.log({ channel: world.address("plover/heat"), limit: 1 });
    expect(requests[0]).toMatchObject({ inlet: "timed off", asker: "Bold Relay", action: "off" });
    const { rows } = await world.pool.query("select count(*)::int as left from deadline where why = 'timed off'");
    expect(rows).toEqual([{ left: 0 }]);
  });

  it("stays on when it was asked anew without a time", async () => {
    await world.ask("plover/heat", "on", 20, { forMs: 300 });
    await world.ask("plover/heat", "on");
    const { rows } = await poll(
      () => world.pool.query("select count(*)::int as left from deadline where why = 'timed off'"),
      ({ rows: [row] }) => row.left === 0,
    );
    expect(rows).toEqual([{ left: 0 }]);
    expect(board.state.contacts.heat).toBe("on");
  });

  it("is told on the board, and never lasts longer than the channel allows", async () => {
    const request = await world.ask("plover/pump", "on");
    expect(request.commands[0]?.forMs).toBe(60_000);
    const channel = await untilChannel(world.client, world.address("plover/pump"), (one) => one.offAt !== null);
    expect(Date.parse(channel.offAt ?? "") - Date.parse(request.at)).toBeGreaterThan(59_000);
    await world.ask("plover/pump", "off");
  });

  it("fires first after a restart, though it fell due while the service was away", async () => {
    await world.ask("plover/heat", "on", 20, { forMs: 700 });
    await world.service.stop();
    await poll(
      async () => Date.now(),
      () => true,
    );
    const { rows } = await world.pool.query("update deadline set due_at = now() - interval '1 hour' returning why");
    expect(rows.length).toBeGreaterThan(0);
    await world.restart();
    await becomes("plover/heat", "off");
  });

  it("waits for a lock-out to be released", async () => {
    await world.ask("plover/heat", "on", 20, { forMs: 500 });
    const hold = await world.client.lockOut({ target: world.address("plover/heat") });
    await poll(
      () => world.pool.query("select count(*)::int as due from deadline where due_at < now() - interval '0.3 s'"),
      ({ rows: [row] }) => row.due === 1,
    );
    expect(board.state.contacts.heat).toBe("on");
    await world.client.release(hold.id);
    await becomes("plover/heat", "off");
  });
});

describe("a stop", () => {
  it("overtakes what is in flight, is tried until it is proven, and says so", async () => {
    await board.setFault("silent");
    const before = heard("skylight").length;
    const open = world.ask("plover/skylight", "open");
    // Two calls at once may come in any order: the stop is the newer one only once the other has been heard.
    await poll(
      async () => heard("skylight").length,
      (times) => times > before,
    );
    const stop = await world.ask("plover/skylight", "stop", 0);
    expect((await open).commands[0]).toMatchObject({ end: "overtaken" });
    await poll(
      () => world.client.request(stop.id),
      (one) => (one.commands[0]?.attempts ?? 0) > 3,
    );
    await board.setFault("none");
    const done = await poll(
      () => world.client.request(stop.id),
      (one) => one.outcome !== "open",
    );
    expect(done.outcome).toBe("delivered");
  });

  it("ends when a person closes it, with the name and the reason", async () => {
    await board.setFault("refusing");
    const { id } = await world.ask("plover/skylight", "stop", 0);
    const closed = await world.client.cancel(id, { reason: "motor removed" });
    expect(closed.commands[0]).toMatchObject({ reason: "closed-by-person" });
    expect(closed.commands[0]?.verdict.text).toContain("Ines (motor removed) cancelled it");
    expect(await refusal(world.client.cancel(id, { reason: "again" }))).toBe("not-open");
  });

  it("comes by itself when a hold is not renewed: the board times itself, and the service sees to it", async () => {
    await world.ask("plover/skylight", "open");
    expect(heard("skylight").length).toBeGreaterThan(0);
    await becomes("plover/skylight", "standing");
    expect(board.deeds.some((one) => one.channel === "skylight" && one.deed === "timed-off")).toBe(true);
  });
});

describe("after a power cut", () => {
  it("restores what was commanded or goes to the safe state, and leaves the rest as it is", async () => {
    await Promise.all(["heat", "sign", "vent-down"].map((one) => world.ask(`plover/${one}`, "on")));
    await board.powerCut();
    await becomes("plover/vent-down", "off");
    await becomes("plover/heat", "on");
    const { requests } = await world.client.log({ asker: "Bold Relay", limit: 5 });
    expect(requests.filter((one) => one.inlet === "power-up").map((one) => one.target)).toEqual([
      world.address("plover/heat"),
    ]);
    expect(board.state.contacts).toMatchObject({ heat: "on", sign: "off", "vent-down": "off" });
  });

  it("a link that flaps is no power cut, and a hand's word is not undone", async () => {
    // Of this channel alone: what another one's hold or time still asks for may come at any moment.
    const asked = async () => {
      const { requests } = await world.client.log({
        asker: "Bold Relay",
        channel: world.address("plover/heat"),
        limit: 50,
      });
      return requests.length;
    };
    await world.ask("plover/heat", "on");
    await board.flip("heat");
    await becomes("plover/heat", "off");
    const before = await asked();
    await board.flapLink();
    await board.powerCut();
    await untilChannel(world.client, world.address("plover/heat"), (one) => one.device.presence === "online");
    await world.ask("plover/vent-up", "on");
    expect([await asked(), board.state.contacts.heat]).toEqual([before, "off"]);
  });
});

describe("a board that speaks bare words and answers on one topic", () => {
  it("has one command in flight for all of its channels, and its answers find their commands", async () => {
    const shed = await world.board("shed", SHED);
    await untilChannel(world.client, world.address("shed/left"), (one) => one.device.presence === "online");
    const [left, right] = await Promise.all([world.ask("shed/left", "on"), world.ask("shed/right", "on")]);
    expect([left.outcome, right.outcome]).toEqual(["delivered", "delivered"]);
    expect(shed.state.contacts).toEqual({ left: "on", right: "on" });
    await shed.setFault("refusing");
    expect((await world.ask("shed/left", "off")).commands[0]).toMatchObject({ reason: "device-refused" });
    await shed.setFault("none");
  });
});

describe("others on the command topic", () => {
  it("are named: a command that we never gave, and a publisher that is listened for", async () => {
    const attic = await world.board("attic", { channels: ["lamp"] });
    const stranger = await world.listener();
    await untilChannel(world.client, world.address("attic/lamp"), (one) => one.device.presence === "online");
    const id = "00000000-0000-7000-8000-00000000000f";
    await stranger.publishAsync(`${world.site}/attic/lamp/do`, `{"id":"${id}","to":"on"}`, { qos: 1 });
    const lamp = await untilChannel(world.client, world.address("attic/lamp"), (one) => one.observed?.value === "on");
    expect(lamp.observed?.cause).toBe("foreign");
    expect(lamp.concerns.map((one) => one.kind)).toEqual(["foreign-publisher"]);
    expect(attic.state.contacts.lamp).toBe("on");
  });

  it("a retained command is found when the link comes up, and nobody-listens still works", async () => {
    const stranger = await world.listener();
    const topic = `${world.site}/plover/sign/do`;
    await stranger.publishAsync(topic, "x", { qos: 1, retain: true });
    await world.restart();
    const sign = await untilChannel(world.client, world.address("plover/sign"), (one) => one.concerns.length > 0);
    expect(sign.concerns[0]).toMatchObject({ kind: "retained-command" });
    await stranger.publishAsync(topic, "", { qos: 1, retain: true });
    await board.stop();
    const request = await world.ask("plover/sign", "on");
    expect(request.commands[0]).toMatchObject({ end: "failed", reason: "nobody-listens" });
    await board.start();
  });
});
