/** Boards whose messages have a form of their own: numbers of their own scale, one number for all outputs, values and ids in topics. */
import { afterAll, describe, expect, it } from "vitest";
import { claimsOf, type Described, one, text } from "./support/claim-boards.ts";
import { scriptedBoard } from "./support/scripted-board.ts";
import { poll, refusal } from "./support/until.ts";

const THREE = ["one", "two", "three"].map((slug) => ({ slug, name: slug, kind: "relay" as const }));
/** One number tells all outputs, both ways. */
const mask = (more: object = {}, topics: object = {}): Described => ({
  profile: text({ bits: true, ...more }, {}, { do: "c/{device}/set", is: "c/{device}/all", ...topics }),
  channels: THREE,
});
const OUT = "c/{device}/{channel}/set";

const { world, plug, stateOf, ask, heardSo, now } = await claimsOf({
  thermostat: {
    profile: text({ scale: 0.1 }),
    channels: one("setpoint", { unit: "°C", range: { least: 5, most: 28, step: 0.5 } }),
  },
  white: {
    profile: text({ mireds: true }),
    channels: one("setpoint", { unit: "K", range: { least: 2_200, most: 6_500, step: 50 } }),
  },
  mask: mask(),
  hurry: mask({ base: 16, digits: 2 }),
  unheard: mask(),
  panel: mask(),
  listed: mask({ bits: false, do: "SET {list}", is: "OUT {*}: {list}", listLength: 3 }),
  timed: {
    ...mask(),
    channels: THREE.map((one) => (one.slug === "two" ? { ...one, delivery: { autoOffMs: 1_500 } } : one)),
  },
  blind: {
    profile: text({ bits: true }, { targetStage: "published" }, { do: "c/{device}/set", is: null }),
    channels: THREE,
  },
  alone: {
    profile: text({ bits: true }, { targetStage: "published" }, { do: "c/{device}/set", is: null }),
    channels: THREE,
  },
  spoken: {
    profile: text(
      { do: "", words: { on: "ON", off: "OFF" } },
      {},
      { do: `${OUT}/{value}`, is: "c/{device}/{channel}/now/{value}" },
    ),
    channels: one("relay"),
  },
  named: {
    profile: text(
      {},
      { attempts: 1, targetStage: "acknowledged" },
      { do: `${OUT}/{id}`, is: null, done: "c/{device}/ack/{id}" },
    ),
    channels: one("relay"),
  },
  five: {
    profile: {
      ...text({}, { targetStage: "acknowledged" }, { is: null, done: "c/{device}/answers" }),
      requestResponse: true,
    },
    channels: one("relay"),
  },
});
afterAll(() => world.stop());

const statesOf = async (name: string) =>
  (await world.client.board()).sites
    .flatMap(({ channels }) => channels)
    .filter(({ device }) => device.address === world.address(name))
    .map(({ observed }) => observed?.value ?? null);

describe.concurrent("a setpoint", () => {
  it("is written and read in the board's own numbers, and shown in the unit of its channel", async () => {
    const board = await plug("thermostat", (payload, it) => void it.say(stateOf("thermostat"), payload));
    expect((await ask("thermostat", "level", { value: 21.5 })).outcome).toBe("delivered");
    expect(board.heard.at(-1)?.payload).toBe("215");
    expect((await now("thermostat")).observed).toMatchObject({ value: 21.5, text: "21.5 °C", on: false });
    expect((await ask("thermostat", "raise")).commands[0]?.verdict.text).toMatch(/reports 22 °C/);
    // Turned at its own knob, between two steps and beyond the range.
    for (const [said, value] of [
      ["193", 19.3],
      ["305", 30.5],
    ] as const) {
      await board.say(stateOf("thermostat"), said);
      await heardSo("thermostat", value);
    }
  });

  it("is not put to its end by a number in another unit, and not for a while", async () => {
    expect(await refusal(ask("thermostat", "level", { value: 70 }))).toBe("value-needed");
    expect(await refusal(ask("thermostat", "level", { value: 20, forMs: 60_000 }))).toBe("time-not-taken");
  });

  it("in kelvins is written in mireds, and confirmed by the number that was written", async () => {
    let off = 0;
    const board = await plug("white", (payload, it) => void it.say(stateOf("white"), String(Number(payload) + off)));
    expect((await ask("white", "level", { value: 2_700 })).outcome).toBe("delivered");
    expect([board.heard.at(-1)?.payload, (await now("white")).observed?.text]).toEqual(["370", "2700 K"]);
    off = 3;
    expect((await ask("white", "level", { value: 4_000 })).outcome).toBe("not-delivered");
  });
});

describe.concurrent("one number that tells all outputs", () => {
  it("leaves the others as they are, and the trace shows what was written", async () => {
    const board = await scripted("mask");
    await board.say("c/mask/all", "5");
    await poll(
      () => statesOf("mask"),
      (states) => states.join() === "on,off,on",
    );
    const request = await world.ask("mask/two", "on");
    expect([request.outcome, board.heard.at(-1)?.payload]).toEqual(["delivered", "7"]);
    const [trace] = (await world.client.trace(request.id)).traces;
    expect(trace?.hops.find(({ kind }) => kind === "sent")?.wire).toEqual({ topic: "c/mask/set", payload: "7" });
    // By hand: the first goes off. What is written next has it so.
    await board.say("c/mask/all", "6");
    await heardSo("mask", "off");
    await world.ask("mask/three", "off");
    expect(board.heard.at(-1)?.payload).toBe("2");
    expect(await statesOf("mask")).toEqual(["off", "on", "off"]);
  });

  it("holds what was asked a moment before, though nothing has confirmed it", async () => {
    const board = await scripted("hurry");
    await board.say("c/hurry/all", "00");
    await heardSo("hurry", "off");
    const requests = await Promise.all(["one", "two", "three"].map((channel) => world.ask(`hurry/${channel}`, "on")));
    expect(requests.map(({ outcome }) => outcome)).toEqual(["delivered", "delivered", "delivered"]);
    expect(board.heard.at(-1)?.payload).toBe("07");
  });

  it("is not written while another output is unknown", async () => {
    const board = await scripted("unheard");
    const [command] = (await world.ask("unheard/two", "on")).commands;
    expect(command).toMatchObject({ end: "failed", reason: "others-unknown" });
    expect(command?.verdict.text).toMatch(/another output is unknown, so nothing was sent/);
    expect(board.heard).toEqual([]);
  });

  it("is not written while somebody has hands in the panel at another output", async () => {
    const board = await scripted("panel");
    await board.say("c/panel/all", "1");
    await heardSo("panel", "on");
    const { id } = await world.client.lockOut({ target: world.address("panel/three") });
    expect(await refusal(world.ask("panel/two", "on"))).toBe("locked-out");
    await world.client.release(id);
    expect((await world.ask("panel/two", "on")).outcome).toBe("delivered");
    expect(board.heard.map(({ payload }) => payload)).toEqual(["3"]);
  });

  it("goes off for safety although the others are not known any more", async () => {
    const board = await scriptedBoard(world, ["c/timed/set"]);
    await board.say("c/timed/all", "1");
    await heardSo("timed", "on");
    const asked = world.ask("timed/two", "on", 0);
    await board.hears(1);
    await board.say("c/timed/all", "3");
    await asked;
    // From now on nobody can say what its outputs are.
    await board.say("c/timed/all", "garbage");
    await board.hears(2);
    expect(board.heard.map(({ payload }) => payload)).toEqual(["3", "1"]);
  });

  it("may be a list of words, of which one is changed", async () => {
    const board = await scriptedBoard(
      world,
      ["c/listed/set"],
      (payload, it) => void it.say("c/listed/all", payload.replace("SET", "OUT 7:")),
    );
    await board.say("c/listed/all", "OUT 7: on,off,on");
    await heardSo("listed", "on");
    expect((await world.ask("listed/two", "on")).outcome).toBe("delivered");
    expect((await world.ask("listed/one", "off")).outcome).toBe("delivered");
    expect(board.heard.map(({ payload }) => payload)).toEqual(["SET on,on,on", "SET off,on,on"]);
  });

  it("does not bring along what nobody heard", async () => {
    // Nobody listens: nothing was switched, and the next command of another output must not switch it.
    expect((await world.ask("alone/one", "on")).commands[0]).toMatchObject({ end: "failed", reason: "nobody-listens" });
    const board = await scriptedBoard(world, ["c/alone/set"]);
    await world.ask("alone/two", "on", 0);
    await board.hears(1);
    expect(board.heard[0]?.payload).toBe("2");
  });

  it("of a board that reports nothing begins with all others at rest", async () => {
    const board = await scriptedBoard(world, ["c/blind/set"]);
    await world.ask("blind/two", "on", 0);
    await board.hears(1);
    await world.ask("blind/three", "on", 0);
    await board.hears(2);
    expect(board.heard.map(({ payload }) => payload)).toEqual(["2", "6"]);
  });
});

describe.concurrent("what a topic says", () => {
  it("is a value, both ways", async () => {
    const board = await scriptedBoard(
      world,
      ["c/spoken/one/set/+"],
      (_, it, topic) => void it.say(topic.replace("set", "now"), ""),
    );
    expect((await ask("spoken", "on")).outcome).toBe("delivered");
    expect(board.heard).toEqual([{ topic: "c/spoken/one/set/ON", payload: "" }]);
    await board.say("c/spoken/one/now/OFF", "whatever");
    await heardSo("spoken", "off");
    await board.say("c/spoken/one/now/BANANA", "");
    await poll(
      () => now("spoken"),
      ({ observed }) => observed?.stale === "unreadable",
    );
  });

  it("is the id of a command, so that a late answer proves no other", async () => {
    const board = await scriptedBoard(world, ["c/named/one/set/+"]);
    const first = ask("named", "on");
    await board.hears(1);
    const [, , , , late = ""] = board.heard[0]?.topic.split("/") ?? [];
    expect((await first).outcome).toBe("not-delivered");
    const second = ask("named", "off");
    await board.hears(2);
    await board.say(`c/named/ack/${late}`, "");
    expect((await second).outcome).toBe("not-delivered");
    const third = ask("named", "on");
    await board.hears(3);
    await board.say(`c/named/ack/${board.heard[2]?.topic.split("/").at(-1)}`, "");
    expect((await third).outcome).toBe("delivered");
  });

  it("or the correlation data of MQTT 5, at the response topic", async () => {
    const board = await scriptedBoard(world, []);
    const asked: string[] = [];
    board.mqtt.on("message", (_topic, _payload, { properties = {} }) => {
      asked.push(properties.responseTopic ?? "none");
      const { correlationData } = properties;
      // An answer to somebody else, then ours.
      board.mqtt.publish(properties.responseTopic ?? "c/five/none", "ok", {
        qos: 1,
        properties: { correlationData: Buffer.from("another") },
      });
      if (asked.length > 1 && correlationData)
        board.mqtt.publish(properties.responseTopic ?? "c/five/none", "ok", {
          qos: 1,
          properties: { correlationData },
        });
    });
    await board.mqtt.subscribeAsync("c/five/one/set", { qos: 1 });
    expect((await ask("five", "on")).outcome).toBe("not-delivered");
    expect((await ask("five", "off")).outcome).toBe("delivered");
    expect(asked).toEqual(["c/five/answers", "c/five/answers"]);
  });
});

/** A board of the first group, which answers a number by that number. */
function scripted(name: string) {
  return scriptedBoard(world, [`c/${name}/set`], (payload, it) => void it.say(`c/${name}/all`, payload));
}
