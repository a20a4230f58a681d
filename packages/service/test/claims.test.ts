/**
 * Nothing but the truth, on running boards. Each board is played from what a maker's sheet says of it, and each test holds one promise:
 * what is called confirmed, stopped, offline, open or known is so by the board's own word.
 */
import { afterAll, describe, expect, it } from "vitest";
import { BOARDS, claimsOf } from "./support/claim-boards.ts";
import { scriptedBoard } from "./support/scripted-board.ts";
import { channelNow, poll, untilChannel } from "./support/until.ts";

const { world, boards, plug, stateOf, ask, said, heardSo, now, alertsOn } = await claimsOf(BOARDS);
afterAll(() => world.stop());

describe.concurrent("a level is confirmed by the number that was written", () => {
  it("another number of a board with ten steps confirms nothing, and is shown as what it is", async () => {
    await plug("ten-steps", (_, board) => void board.say(stateOf("ten-steps"), "4"));
    const request = await ask("ten-steps", "level", { value: 50 });
    expect(boards.get("ten-steps")?.heard.at(-1)?.payload).toBe("5");
    expect(request.outcome).toBe("not-delivered");
    expect((await now("ten-steps")).observed?.value).toBe(40);
  });

  it("a fan that is stuck at one of four steps confirms that step alone", async () => {
    await plug("fan", (_, board) => void board.say(stateOf("fan"), "1"));
    for (const value of [60, 67, 100])
      expect([value, (await ask("fan", "level", { value })).outcome]).toEqual([value, "not-delivered"]);
    const nearest = await ask("fan", "level", { value: 30 });
    expect(nearest.outcome).toBe("delivered");
    expect(nearest.commands[0]?.verdict.text).toMatch(/reports 25 %, as written for 30 %/);
  });

  it("within the tolerance that the profile states, in the board's own numbers", async () => {
    let off = 2;
    await plug("loose", (payload, board) => void board.say(stateOf("loose"), String(Number(payload) + off)));
    expect((await ask("loose", "level", { value: 50 })).outcome).toBe("delivered");
    off = 3;
    expect((await ask("loose", "level", { value: 60 })).outcome).toBe("not-delivered");
  });

  it("on from a dimmer is on, and no level", async () => {
    const board = await plug("level", (payload, it) => void it.say(stateOf("level"), payload === "0" ? "OFF" : "ON"));
    const request = await ask("level", "level", { value: 35 });
    expect([request.outcome, board.heard[0]?.payload]).toEqual(["not-delivered", "35"]);
    expect(await said("what is level one?")).toContain("on, level not reported");
    expect((await ask("level", "off")).outcome).toBe("delivered");
  });

  it("a colour in three numbers that are no parts of 0 to 255 is unreadable", async () => {
    await plug("hsv", (_, board) => void board.say(stateOf("hsv"), "300,100,100"));
    expect((await ask("hsv", "colour", { value: "magenta" })).outcome).toBe("not-delivered");
  });
});

describe.concurrent("a blind that is told to stop", () => {
  it("is not stopped while it moves on", async () => {
    const board = await plug("blind");
    await board.say(stateOf("blind"), "20");
    await heardSo("blind", 20);
    const stopping = ask("blind", "stop");
    await board.hears(1);
    for (const position of ["30", "40", "50", "60"]) await board.say(stateOf("blind"), position);
    await heardSo("blind", 60);
    const { id } = (await now("blind")).lastCommand ?? { id: "" };
    expect(id).not.toBe("");
    expect((await now("blind")).lastCommand?.end).toBeNull();
    // It answers each further stop with where it stands.
    board.mqtt.on("message", () => void board.say(stateOf("blind"), "70"));
    const request = await stopping;
    expect(request.outcome).toBe("delivered");
    expect(request.commands[0]?.verdict.text).toMatch(/70 % open again and again, so it stands/);
  });

  it("is stopped by its own word for it", async () => {
    await plug("halting", (payload, board) => void board.say(stateOf("halting"), payload));
    expect((await ask("halting", "stop")).commands[0]?.verdict.headline).toBe("Confirmed.");
  });

  it("travels for as long as its profile says, and is not told again while it moves", async () => {
    const board = await plug("slow");
    const request = ask("slow", "open");
    await board.hears(1);
    await board.say(stateOf("slow"), "10");
    await heardSo("slow", 10);
    // Longer than one attempt waits: what is not acknowledged is given the time that it needs.
    await new Promise((resolve) => setTimeout(resolve, 1_200));
    await board.say(stateOf("slow"), "100");
    expect((await request).outcome).toBe("delivered");
    expect(board.heard).toHaveLength(1);
  });
});

describe.concurrent("what is known", () => {
  it("a late will of an old session does not make a board offline that speaks", async () => {
    const board = await plug("late-will", (payload, it) => void it.say(stateOf("late-will"), payload));
    await board.say("c/late-will/here", "hi", true);
    await untilChannel(world.client, world.address("late-will/one"), (it) => it.device.presence === "online");
    await board.say("c/late-will/here", "bye", true);
    await untilChannel(world.client, world.address("late-will/one"), (it) => it.device.presence === "offline");
    expect((await ask("late-will", "on")).outcome).toBe("delivered");
    expect((await now("late-will")).device.presence).toBe("online");
    expect(await said("is late-will one on?")).toMatch(/^Yes/);
  });

  it("after a command that ended without proof the state is not known", async () => {
    let silent = false;
    const board = await plug("unproven", (payload, it) => void (silent || it.say(stateOf("unproven"), payload)));
    expect((await ask("unproven", "on")).outcome).toBe("delivered");
    silent = true;
    expect((await ask("unproven", "off")).commands[0]?.end).toBe("unanswered");
    const reply = await said("is unproven one on?");
    expect(reply).not.toMatch(/^(?:Yes|No)/);
    expect(reply).toMatch(/on \(not known now, last command unproven, reported/);
    expect((await now("unproven")).observed?.stale).toBe("unproven");
    await board.say(stateOf("unproven"), "on");
    await heardSo("unproven", "on");
    expect(await said("is unproven one on?")).toMatch(/^Yes/);
  });

  it("after an acknowledgement alone the state is not known, unless it was so already", async () => {
    let reports = true;
    await plug("acked", (payload, it) => {
      void it.say("c/acked/done", "ok");
      if (reports) void it.say(stateOf("acked"), payload);
    });
    expect((await ask("acked", "on")).outcome).toBe("delivered");
    await heardSo("acked", "on");
    reports = false;
    expect((await ask("acked", "on")).outcome).toBe("delivered");
    expect(await said("is acked one on?")).toMatch(/^Yes/);
    expect((await ask("acked", "off")).outcome).toBe("delivered");
    expect(await said("is acked one on?")).toMatch(/not known now, last command unproven/);
  });

  it.each([
    ["garage", "closed", 0, "opening", "is garage one shut?"],
    ["manual", "OFF", "off", "ON (manual)", "is manual one on?"],
    ["meter", "21.5", 21.5, "E7 no probe", "what is meter one?"],
  ] as const)(
    "%s: what cannot be read puts the state in doubt, with one alert",
    async (name, before, value, odd, question) => {
      const board = await plug(name);
      await board.say(stateOf(name), before);
      await heardSo(name, value);
      for (let times = 0; times < 3; times += 1) await board.say(stateOf(name), odd);
      await untilChannel(world.client, world.address(`${name}/one`), (it) => it.observed?.stale === "unreadable");
      expect(await said(question)).toMatch(/^(?!Yes|No).*not known now, last report unreadable/);
      const alerts = await poll(
        () => alertsOn(name),
        (all) => all.length > 0,
      );
      expect(alerts).toHaveLength(1);
      expect([alerts[0]?.kind, alerts[0]?.text]).toEqual([
        "report-unreadable",
        expect.stringContaining(`“${odd}” on ${stateOf(name)} is not in its profile's form`),
      ]);
    },
  );

  it("bytes that no database takes are stored escaped, and end nothing", async () => {
    const odd = ["ON\0", Uint8Array.of(0xed, 0xa0, 0x80), `{"x":"\\ud800"}`, `${"y".repeat(999)}😀`, "\0"];
    const board = await plug("nul", async (payload, it) => {
      for (const one of odd) await it.say(stateOf("nul"), one);
      await it.say(stateOf("nul"), payload);
    });
    const request = await ask("nul", "on");
    expect([request.outcome, board.heard.length]).toEqual(["delivered", 1]);
    expect((await world.pool.query("select 1 from command where request_id = $1", [request.id])).rowCount).toBe(1);
    const trace = await world.client.trace(request.id);
    expect(trace.traces[0]?.hops.filter(({ kind }) => kind === "ignored").map(({ wire }) => wire?.payload)).toContain(
      "4F 4E 00 (hex)",
    );
  });
});

describe.concurrent("a board that reports changes only and acknowledges nothing", () => {
  it("is told on twice: sent, no change, and no alert", async () => {
    let is = "off";
    const board = await plug("quiet", (payload, it) => {
      if (payload !== is) void it.say(stateOf("quiet"), payload);
      is = payload;
    });
    await board.say(stateOf("quiet"), "off");
    await heardSo("quiet", "off");
    expect((await ask("quiet", "on")).commands[0]?.verdict.headline).toBe("Confirmed.");
    const again = await ask("quiet", "on");
    expect(again.outcome).toBe("delivered");
    expect(again.commands[0]).toMatchObject({
      stage: "published",
      verdict: { severity: "weak", headline: "Sent, no change." },
    });
    expect(await alertsOn("quiet")).toEqual([]);
    expect(await said("is quiet one on?")).toMatch(/^Yes/);
  });

  it("is asked where it can be, and its answer confirms", async () => {
    let is = "on";
    const board = await plug("asked", (payload, it, topic) => {
      if (!topic.endsWith("/set")) return;
      if (payload !== is) void it.say(stateOf("asked"), payload);
      is = payload;
    });
    await board.mqtt.subscribeAsync("c/asked/one/get", { qos: 1 });
    board.mqtt.on("message", (topic) => void (topic.endsWith("/get") && board.say(stateOf("asked"), is)));
    await board.say(stateOf("asked"), "on");
    await heardSo("asked", "on");
    expect((await ask("asked", "on")).commands[0]?.verdict.headline).toBe("Confirmed.");
  });
});

describe.concurrent("a command that cannot have come through", () => {
  it("is no late command: after nobody listens, a press at the wall is no command of ours", async () => {
    const board = await scriptedBoard(world, []);
    await board.say(stateOf("nobody"), "off");
    await heardSo("nobody", "off");
    const request = await ask("nobody", "on");
    expect(request.commands[0]).toMatchObject({ end: "failed", reason: "nobody-listens" });
    expect(await said("is nobody one on?")).toMatch(/^No\./);
    await board.say(stateOf("nobody"), "on");
    expect((await heardSo("nobody", "on")).observed?.cause).toBe("unknown");
  });

  it("a retained one waits for a board that sleeps", async () => {
    const request = ask("sleeper", "on");
    await poll(
      async () => (await now("sleeper")).lastCommand,
      (last) => last?.stage === "published",
    );
    await plug("sleeper", (payload, it) => void (payload !== "" && it.say(stateOf("sleeper"), payload)));
    expect((await request).outcome).toBe("delivered");
  });

  it("late acknowledgements of a dead board, three at once, prove nothing of the next command", async () => {
    const board = await plug("acks");
    expect((await ask("acks", "on")).commands[0]?.end).toBe("unanswered");
    await board.hears(3);
    const next = ask("acks", "off");
    await board.hears(4);
    for (let times = 0; times < 3; times += 1) await board.say("c/acks/done", "ok");
    expect((await next).commands[0]?.end).toBe("unanswered");
  });
});

describe.concurrent("more that boards do", () => {
  it("one that never speaks unasked is asked after a command, and again and again", async () => {
    let is = "off";
    const board = await plug("polled", (payload, _, topic) => {
      if (topic.endsWith("/set")) is = payload;
    });
    await board.mqtt.subscribeAsync("c/polled/one/get", { qos: 1 });
    board.mqtt.on("message", (topic) => void (topic.endsWith("/get") && board.say(stateOf("polled"), is)));
    expect((await ask("polled", "on")).commands[0]?.verdict.headline).toBe("Confirmed.");
    // Somebody at the wall.
    is = "off";
    await heardSo("polled", "off");
  });

  it("one without presence is online as long as it is heard, and offline when it is silent for too long", async () => {
    const board = await plug("mute");
    await board.say(stateOf("mute"), "on");
    await untilChannel(world.client, world.address("mute/one"), (it) => it.device.presence === "online");
    await untilChannel(world.client, world.address("mute/one"), (it) => it.device.presence === "offline");
    expect(await said("is mute one on?")).toMatch(/on \(offline, last seen so/);
  });

  it("one that has a topic of its own for stop is told there, and nowhere else", async () => {
    const board = await plug("stop-topic", (payload, it, topic) => {
      void it.say(stateOf("stop-topic"), topic.endsWith("/set") ? payload : "now");
    });
    await board.mqtt.subscribeAsync("c/stop-topic/one/halt", { qos: 1 });
    expect((await ask("stop-topic", "level", { value: 40 })).outcome).toBe("delivered");
    expect((await ask("stop-topic", "stop")).commands[0]?.verdict.headline).toBe("Confirmed.");
    expect(board.heard.map(({ topic, payload }) => `${topic} ${payload}`)).toEqual([
      "c/stop-topic/one/set 40",
      "c/stop-topic/one/halt now",
    ]);
  });

  it("a short number in place of an id: that of the command proves it, another one does not", async () => {
    let shift = 0;
    await plug("numbered", (payload, it) => {
      const [to, number] = payload.split(" ");
      void it.say(stateOf("numbered"), `${to} ${(Number(number) + shift) % 65_536}`);
    });
    expect((await ask("numbered", "on")).outcome).toBe("delivered");
    shift = 1;
    const wrong = await ask("numbered", "off");
    expect(wrong.outcome).toBe("not-delivered");
    expect(wrong.commands[0]?.verdict.text).toMatch(/names another command/);
  });

  it("two boards behind one topic are told apart by a field, and what must stand in it must", async () => {
    let answer = (body: { dev: string; out: number; state: number }) => JSON.stringify({ ...body, kind: "relay" });
    await plug("bus", (payload, it) => void it.say("c/bus/out", answer(JSON.parse(payload))));
    expect((await ask("bus", "on")).outcome).toBe("delivered");
    expect((await channelNow(world.client, world.address("bus/two")))?.observed).toBeNull();
    answer = ({ out, state }) => JSON.stringify({ dev: 9, out, state, kind: "relay" });
    expect((await ask("bus", "off")).outcome).toBe("not-delivered");
    answer = (body) => JSON.stringify({ ...body, kind: "lamp" });
    expect((await ask("bus", "off")).outcome).toBe("not-delivered");
  });
});

describe("a gate with one button and two end contacts", () => {
  it("is refused midway, and tells nothing while both contacts are made", async () => {
    const board = await plug("gate");
    const contacts = async (up: string, down: string) => {
      await board.say(stateOf("gate", "up"), up);
      await board.say(stateOf("gate", "down"), down);
    };
    await contacts("off", "on");
    await heardSo("gate", 0);
    await contacts("off", "off");
    await heardSo("gate", "between");
    await expect(ask("gate", "open")).rejects.toMatchObject({ problem: { code: "midway" } });
    expect(board.heard).toEqual([]);
    await contacts("off", "on");
    await heardSo("gate", 0);
    await contacts("on", "on");
    await untilChannel(world.client, world.address("gate/one"), (it) => it.observed?.stale === "contradicted");
    const reply = await said("is gate one shut?");
    expect(reply).not.toMatch(/^(?:Yes|No)/);
    expect(reply).toContain("both end contacts made");
  });
});
