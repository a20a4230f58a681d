/** The stand-in board by itself: what the product is tested against must itself do what it says. */
import { connectAsync, type MqttClient } from "mqtt";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, inject, it } from "vitest";
import { brokerUrl } from "../../service/test/support/servers.ts";
import { RelayBoard, startControl } from "../src/index.ts";

let ear: MqttClient;
let board: RelayBoard;
let heard: { topic: string; body: Record<string, unknown>; retain: boolean }[] = [];
let number = 0;

const access = () => ({ brokerUrl: brokerUrl(), username: "tester", password: inject("brokerPassword") });
const ID = "00000000-0000-7000-8000-000000000001";

beforeAll(async () => {
  const { brokerUrl, ...credentials } = access();
  ear = await connectAsync(brokerUrl, { ...credentials, protocolVersion: 5 });
  ear.on("message", (topic, payload, { retain }) => {
    heard.push({ topic: topic.split("/").slice(2).join("/"), body: JSON.parse(payload.toString()), retain });
  });
});
afterAll(() => ear.endAsync());

beforeEach(async () => {
  number += 1;
  heard = [];
  board = new RelayBoard({
    ...access(),
    site: `standin-${number}`,
    device: "board",
    channels: ["lamp"],
    slowMs: 50,
    contacts: { lamp: "off" },
  });
  await ear.subscribeAsync([`${board.name}/+/done`, `${board.name}/+/is`, `${board.name}/here`], { qos: 1 });
  await board.start();
});
afterEach(() => board.stop());

const tell = (body: object | string) =>
  ear.publishAsync(`${board.name}/lamp/do`, typeof body === "string" ? body : JSON.stringify(body), { qos: 1 });

/** Resolves once a message like this was heard. */
async function until(topic: string, body: Record<string, unknown>): Promise<void> {
  const isThere = () =>
    heard.some((one) => one.topic === topic && Object.entries(body).every(([name, value]) => one.body[name] === value));
  while (!isThere()) await new Promise(setImmediate);
}

describe("a board", () => {
  it("says that it is here and what its contacts are, then obeys, answers and reports", async () => {
    await until("here", { up: true });
    await until("lamp/is", { to: "off", by: "boot" });
    await tell({ id: ID, to: "on" });
    await until("lamp/done", { id: ID, ok: true });
    await until("lamp/is", { to: "on", by: "command", id: ID });
    expect(board.state).toEqual({ fault: "none", contacts: { lamp: "on" }, trouble: null });
  });

  it("ignores what is no command", async () => {
    for (const junk of ["", "on", "{}", '{"id":7,"to":"on"}', `{"id":"${ID}","to":"blue"}`]) await tell(junk);
    await tell({ id: ID, to: "on" });
    await until("lamp/done", { id: ID, ok: true });
    expect(board.deeds.filter((deed) => deed.deed === "heard")).toHaveLength(1);
  });

  it("tells of a hand at its switch", async () => {
    await board.flip("lamp");
    await until("lamp/is", { to: "on", by: "hand" });
    await expect(board.flip("door")).rejects.toThrow(/has no channel “door”/);
  });
});

describe("faults", () => {
  it("refusing: says no with a code and does not switch", async () => {
    await board.setFault("refusing");
    await tell({ id: ID, to: "on" });
    await until("lamp/done", { id: ID, ok: false, code: 4 });
    expect(board.state.contacts.lamp).toBe("off");
  });

  it("silent: hears, and does nothing until it is cured", async () => {
    await board.setFault("silent");
    await tell({ id: ID, to: "on" });
    while (board.deeds.length === 0) await new Promise(setImmediate);
    await board.setFault("none");
    const other = ID.replace(/1$/, "2");
    await tell({ id: other, to: "on" });
    await until("lamp/done", { id: other });
    expect(heard.some((one) => one.body.id === ID)).toBe(false);
  });

  it("unplugged: its last will speaks, and a later power-up is a new one with the same contacts", async () => {
    await tell({ id: ID, to: "on" });
    await until("lamp/is", { to: "on", by: "command" });
    await board.setFault("unplugged");
    await until("here", { up: false });
    await board.setFault("none");
    await until("lamp/is", { to: "on", by: "boot" });
    const boots = new Set(
      heard.filter((one) => one.topic === "here" && one.body.up === true).map((one) => one.body.boot),
    );
    expect(boots.size).toBe(2);
  });
});

describe("the control address", () => {
  it("lists, makes faults, presses switches, and says what it does not know", async () => {
    const control = await startControl([board], 0);
    const call = (method: string, path: string) => fetch(`http://127.0.0.1:${control.port}${path}`, { method });
    expect(await (await call("GET", "/")).json()).toEqual({ [board.name]: board.state });
    await call("POST", `/${board.name}/fault/silent`);
    expect(board.state.fault).toBe("silent");
    await call("POST", `/${board.name}/flip/lamp`);
    expect(board.state.contacts.lamp).toBe("on");
    const wrong = await call("POST", `/${board.name}/fault/angry`);
    expect([wrong.status, await wrong.text()]).toEqual([400, expect.stringContaining("Faults: none, silent")]);
    expect(await (await call("POST", "/no/board/flip/lamp")).text()).toContain("There is no stand-in");
    await control.stop();
  });
});
