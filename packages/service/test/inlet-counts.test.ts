/** What came in at an inlet: the same for every kind, from the database, after restarts and edits. */
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createInletWorld, type InletWorld } from "./support/inlets.ts";
import { poll } from "./support/until.ts";

let inlets: InletWorld;
const keys: Record<string, string> = {};

beforeAll(async () => {
  inlets = await createInletWorld();
  keys.web = await inlets.make({ slug: "c-web", kind: "web" });
  keys.chat = await inlets.make({ slug: "c-chat", kind: "chat", senders: ["ana"] });
  keys.call = await inlets.make({ slug: "c-call", kind: "call" });
  keys.hook = await inlets.make({
    slug: "c-hook",
    kind: "hook",
    routes: [{ when: { fields: { "/lamp": "{lamp}" } }, do: { target: "{lamp}", action: "on" } }],
  });
});
afterAll(() => inlets.stop());

/** The same three arrivals in the manner of each kind: one that asks, one that nothing is called, one that it cannot do. */
const arrivals: Record<string, () => Promise<unknown>[]> = {
  web: () => [
    inlets.post("c-web", keys.web ?? "", { target: inlets.world.address("wren/porch"), action: "on" }),
    inlets.post("c-web", keys.web ?? "", { target: "no such lamp", action: "on" }),
    inlets.post("c-web", keys.web ?? "", { target: inlets.world.address("wren/porch"), action: "level", value: 3 }),
  ],
  chat: () => [
    inlets.post("c-chat", keys.chat ?? "", { sender: "ana", text: "porch lantern in wren on" }),
    inlets.post("c-chat", keys.chat ?? "", { sender: "ana", text: "no such lamp on" }),
    inlets.post("c-chat", keys.chat ?? "", { sender: "ana", text: "porch lantern in wren on for 99 hours" }),
  ],
  call: () => [
    inlets.post(`c-call/${inlets.world.address("wren/porch")}`, keys.call ?? "", "on"),
    inlets.post("c-call/no-such-lamp", keys.call ?? "", "on"),
    inlets.post(`c-call/${inlets.world.address("wren/porch")}`, keys.call ?? "", "on for 99 hours"),
  ],
  hook: () => [
    inlets.post("c-hook", keys.hook ?? "", { lamp: inlets.world.address("wren/porch") }),
    inlets.post("c-hook", keys.hook ?? "", { lamp: "no such lamp" }),
  ],
};

const countsOf = async (kind: string) =>
  (await inlets.world.client.inlets()).find(({ slug }) => slug === `c-${kind}`)?.counts;

describe("counts of an inlet", () => {
  it.each(Object.entries(arrivals))(
    "%s: an ask, one that is not understood, one that is refused",
    async (kind, come) => {
      await Promise.all(come());
      const expected = {
        arrivals: kind === "hook" ? 2 : 3,
        asked: 1,
        notUnderstood: 1,
        refused: kind === "hook" ? 0 : 1,
      };
      expect(await countsOf(kind)).toMatchObject({ day: expected, week: expected });
    },
  );

  it("tell of unknown senders, and of what was answered with words alone", async () => {
    await inlets.post("c-chat", keys.chat ?? "", { sender: "nobody", text: "porch lantern in wren on" });
    await inlets.post("c-chat", keys.chat ?? "", { sender: "ana", text: "hello" });
    expect((await countsOf("chat"))?.day).toMatchObject({ arrivals: 5, unknownSenders: 1, answered: 1 });
  });

  it("outlive an edit of the inlet, and a restart of the service", async () => {
    const { world } = inlets;
    const before = await countsOf("chat");
    const { inlet, version } = await world.client.inlet("c-chat");
    await world.client.saveInlet({ ...inlet, name: "Another name" }, version);
    expect(await countsOf("chat")).toEqual(before);
    const lastAt = (await world.client.inlets()).find(({ slug }) => slug === "c-chat")?.lastAt;
    await world.restart();
    expect(await countsOf("chat")).toEqual(before);
    expect((await world.client.inlets()).find(({ slug }) => slug === "c-chat")?.lastAt).toBe(lastAt);
  });

  it("are on record within a moment, whoever kills the service then", async () => {
    const { pool } = inlets.world;
    await inlets.post("c-web", keys.web ?? "", { target: inlets.world.address("wren/porch"), action: "off" });
    await poll(
      async () => (await pool.query("select arrivals from inlet_hour where inlet = 'c-web'")).rows[0]?.arrivals,
      (arrivals) => arrivals === 4,
    );
  });

  it("leave out days that are over", async () => {
    const { pool } = inlets.world;
    await pool.query("update inlet_hour set hour = hour - interval '3 days' where inlet = 'c-call'");
    await inlets.world.restart();
    expect(await countsOf("call")).toMatchObject({ day: { arrivals: 0 }, week: { arrivals: 3 } });
  });
});
