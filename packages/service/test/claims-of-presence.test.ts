/** Who is there, what is open to doubt, and what stays behind at the broker: each only as long as something proves it. */
import { afterAll, describe, expect, it } from "vitest";
import { claimsOf, type Described, one, text } from "./support/claim-boards.ts";
import { poll, untilChannel } from "./support/until.ts";

const GET = { ask: "c/{device}/{channel}/get" };
const JSON_FORM: Described["profile"] = {
  codec: "json",
  topics: {
    do: "c/{device}/{channel}/set",
    done: "c/{device}/done",
    is: "c/{device}/{channel}",
    here: "c/{device}/here",
  },
  delivery: { ackWithinMs: 400, attempts: 1, settleMs: 1_500, ttlMs: 20_000 },
};

const { world, plug, stateOf, ask, heardSo, now, alertsOn } = await claimsOf({
  radio: { profile: JSON_FORM, channels: one("relay") },
  mended: { profile: text(), channels: one("relay") },
  locked: { profile: text({}, { askEveryMs: 300 }, GET), channels: one("relay") },
  free: { profile: text({}, { askEveryMs: 300 }, GET), channels: one("relay") },
  sleeping: {
    profile: {
      ...text({ words: { stop: "now" } }, { ackWithinMs: 2_000, attempts: 8 }, { stop: "c/{device}/{channel}/halt" }),
      retainCommands: true,
    },
    channels: one("position"),
  },
  numbers: { profile: text({ do: "{value} {number}", is: "{value} {number}" }), channels: one("relay") },
});
afterAll(() => world.stop());

describe.concurrent("what proves a claim", () => {
  it("that a command was passed on does not bring a device online that is off", async () => {
    const board = await plug("radio", (payload, it) => {
      void it.say("c/radio/done", JSON.stringify({ id: JSON.parse(payload).id, ok: null }));
    });
    await board.say("c/radio/here", '{"up":false,"boot":"a"}');
    await untilChannel(world.client, world.address("radio/one"), (it) => it.device.presence === "offline");
    expect((await ask("radio", "on")).outcome).toBe("not-delivered");
    expect((await now("radio")).device.presence).toBe("offline");
    await board.say(stateOf("radio"), '{"to":"on"}');
    await untilChannel(world.client, world.address("radio/one"), (it) => it.device.presence === "online");
  });

  it("an unreadable report is an alert until the profile reads it, and no longer", async () => {
    const board = await plug("mended");
    await board.say(stateOf("mended"), "AN");
    await poll(
      () => alertsOn("mended"),
      ([first]) => first?.kind === "report-unreadable",
    );
    // Readable, by the same profile: the board may well send the other form again.
    await board.say(stateOf("mended"), "off");
    await heardSo("mended", "off");
    expect(await alertsOn("mended")).toHaveLength(1);
    const { version, profile } =
      (await world.client.profiles()).find((known) => known.profile.slug === "c-mended") ?? {};
    if (!profile || version === undefined) throw new Error("the profile is gone");
    await world.client.saveProfile({ ...profile, codec: { form: "text", words: { on: "AN", off: "AUS" } } }, version);
    await board.say(stateOf("mended"), "AN");
    await heardSo("mended", "on");
    expect(await alertsOn("mended")).toEqual([]);
  });

  it("no state query of the service's own goes to a channel that is locked out", async () => {
    const locked = await plug("locked");
    const free = await plug("free");
    await world.client.lockOut({ target: world.address("locked/one") });
    await locked.mqtt.subscribeAsync("c/locked/one/get", { qos: 1 });
    await free.mqtt.subscribeAsync("c/free/one/get", { qos: 1 });
    await free.hears(3);
    expect(locked.heard).toEqual([]);
  });

  it("of a board that sleeps, only what is newest waits for it at the broker, on whichever topic", async () => {
    const isPublished = (to: unknown) => async () => {
      const last = (await now("sleeping")).lastCommand;
      return last ? last.to === to && last.stage === "published" : false;
    };
    const stop = ask("sleeping", "stop");
    await poll(isPublished("stop"), (it) => it);
    const level = ask("sleeping", "level", { value: 40 });
    await poll(isPublished(40), (it) => it);
    expect((await stop).commands[0]?.end).toBe("overtaken");
    const board = await plug(
      "sleeping",
      (payload, it) => void (payload !== "" && it.say(stateOf("sleeping"), payload)),
    );
    await board.mqtt.subscribeAsync("c/sleeping/one/halt", { qos: 1 });
    expect((await level).outcome).toBe("delivered");
    expect(board.heard.filter(({ payload }) => payload !== "")).toEqual([
      { topic: "c/sleeping/one/set", payload: "40" },
    ]);
  });

  it("a short number that none of our commands has proves nobody else's command", async () => {
    const board = await plug("numbers");
    await board.say(stateOf("numbers"), "off 7");
    await heardSo("numbers", "off");
    await board.say(stateOf("numbers"), "on 7");
    expect((await heardSo("numbers", "on")).observed?.cause).toBe("unknown");
  });
});
