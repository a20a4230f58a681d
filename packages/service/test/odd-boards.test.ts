/**
 * Two dozen odd boards, described by data alone and run by firmware that was written from their makers' words. Each does what it
 * is asked, byte for byte; each of its faults is named in the trace, in an alert and by the commissioning step.
 */
import type { CommissioningView, RequestView } from "@bold-relay/api";
import type { Profile, SiteDescription } from "@bold-relay/core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { ODD_BOARDS } from "./support/odd-boards.ts";
import { type Fault, type OddBoard, RunningBoard } from "./support/odd-kit.ts";
import { poll, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
const boards = Object.entries(ODD_BOARDS);
const running = new Map<string, RunningBoard>();

const siteOf = (slug: string): SiteDescription => ({
  slug,
  name: "Odd boards",
  rooms: [
    {
      slug: "lab",
      name: "Lab",
      devices: boards.map(([name, { device }]) => ({
        slug: name,
        name: `${name} board`,
        profile: `odd-${name}`,
        ...device,
        channels: device.channels.map((channel) => ({ ...channel, name: `Output ${name} ${channel.slug}` })),
      })),
    },
  ],
});

beforeAll(async () => {
  const profiles = boards.map(([name, { profile }]): Profile => ({ slug: `odd-${name}`, name, ...profile }));
  world = await createWorld({ profiles });
  // As an engineer would: by the interface, with its checks.
  await world.client.saveSite({ ...siteOf(world.site), name: "Odd boards" }, null);
  for (const [name, { firmware }] of boards) {
    const board = new RunningBoard(firmware(name), await world.listener());
    running.set(name, board);
    await board.start();
  }
});
afterAll(() => world.stop());

const boardOf = (name: string) => running.get(name) as RunningBoard;

/** What is asked of a board in turn: on, off, on, … */
function asker(name: string, { channel, asks }: OddBoard) {
  let turn = 0;
  return async (): Promise<RequestView> => {
    const ask = asks[turn % asks.length];
    turn += 1;
    if (!ask) throw new Error("nothing to ask");
    const more = ask.value === undefined ? {} : { value: ask.value };
    return world.ask(`${name}/${channel}`, ask.action, 40, more);
  };
}

/** The faults that a board can show, by what it says at all. */
function faultsOf(name: string): Exclude<Fault, "none" | "doubled">[] {
  const { firmware } = boardOf(name);
  const { ack, otherOutput, otherValue } = firmware;
  return [
    // First: without ids an answer belongs to the oldest write that is owed one, and those after it owe some.
    ...(ack ? (["refusal"] as const) : []),
    "silent",
    ...(otherValue ? (["wrong-value"] as const) : []),
    ...(otherOutput === undefined ? [] : (["wrong-channel"] as const)),
    ...(HAS_IDS.has(name) ? (["wrong-id"] as const) : []),
    "late",
  ];
}
/** Boards whose reports name the command: elsewhere a report proves it whatever the answer said. */
const HAS_IDS = new Set(["one-message", "newcomer"]);

/** What the trace must say; an acknowledgement that names no channel is believed, so that the report must give it away. */
const NAMED: Record<Exclude<Fault, "none" | "doubled">, RegExp> = {
  silent: /answered none of 1 attempt|did not report|Nobody/,
  "wrong-value": /reports another value|reports that the channel is not|yet reports/,
  "wrong-channel": /is about Output|did not report|reports another value/,
  "wrong-id": /names another command/,
  refusal: /answered no/,
  late: /answered none of 1 attempt|did not report/,
};

async function alertsOf(name: string, isSo: (text: string) => boolean): Promise<string[]> {
  const all = await poll(
    () => world.client.alerts(),
    (alerts) => alerts.some(({ subject, text }) => subject.startsWith(world.address(name)) && isSo(text)),
  );
  return all.filter(({ subject }) => subject.startsWith(world.address(name))).map(({ text }) => text);
}

async function commissioned(name: string, step: string): Promise<CommissioningView["steps"][number]> {
  const over = ["passed", "failed", "skipped", "asks"];
  const device = world.address(name);
  const find = async () => (await world.client.commissionings(device))[0]?.steps.find((one) => one.name === step);
  await poll(find, (one) => one !== undefined && one.state !== "waiting" && one.state !== "running");
  await world.client.commissioningStep(device, { step, answer: "go" });
  return (await poll(
    find,
    (one) => one !== undefined && over.includes(one.state),
  )) as CommissioningView["steps"][number];
}

async function doesAsAsked(name: string, board: OddBoard, ask: () => Promise<RequestView>): Promise<void> {
  const from = boardOf(name).heard.length;
  for (const [index, { wire }] of board.asks.entries()) {
    const request = await ask();
    expect([name, request.outcome]).toEqual([name, "delivered"]);
    const heard = boardOf(name).heard[from + index] ?? "";
    expect([name, heard]).toEqual([name, typeof wire === "string" ? wire : expect.stringMatching(wire)]);
  }
}

/** What was said, without the payload: a commissioning asks for other values than a person. */
const withoutPayload = (text: string | null) => text?.replace(/“[^”]*”/g, "“…”") ?? null;

async function showsFault(
  name: string,
  board: OddBoard,
  fault: Exclude<Fault, "none" | "doubled">,
  ask: () => Promise<RequestView>,
) {
  const running = boardOf(name);
  const about = `${name}, ${fault}`;
  running.fault = fault;
  const request = await ask();
  const [command] = request.commands;
  const words = command?.verdict.text ?? "";
  // Never more than the board has said.
  expect([about, request.outcome]).toEqual([about, "not-delivered"]);
  expect([about, words]).toEqual([about, expect.stringMatching(NAMED[fault])]);
  await alertsOf(name, (text) => text.includes(words));
  const step = await commissioned(name, `channel ${board.channel}`);
  expect([about, step.state]).toEqual([about, "failed"]);
  if (command?.ignored?.answered && fault !== "refusal")
    expect([about, withoutPayload(step.text)]).toEqual([about, withoutPayload(command.ignored.text)]);
  running.fault = "none";
  await running.release();
}

describe.concurrent("an odd board", () => {
  it.concurrent.each(boards)(
    "%s: does what it is asked, to the byte, and its faults are named in trace, alert and commissioning",
    { timeout: 300_000 },
    async (name, board) => {
      const ask = asker(name, board);
      await doesAsAsked(name, board, ask);
      await world.client.commission(world.address(name));
      for (const fault of faultsOf(name)) {
        await showsFault(name, board, fault, ask);
        // Well again, it is believed again.
        expect([name, fault, (await ask()).outcome]).toEqual([name, fault, "delivered"]);
      }
      boardOf(name).fault = "doubled";
      for (const _ask of board.asks)
        expect([name, "doubled", (await ask()).outcome]).toEqual([name, "doubled", "delivered"]);
      boardOf(name).fault = "none";
      await skipTheRest(name);
    },
  );
});

/** Ends the run: only so many may stand at a time. */
async function skipTheRest(name: string): Promise<void> {
  const device = world.address(name);
  const [run] = await world.client.commissionings(device);
  for (const { name: step, state } of run?.steps ?? [])
    if (state === "ready" || state === "waiting" || state === "asks")
      await world.client.commissioningStep(device, { step, answer: "skip" });
}

describe("a board that is not what it was", () => {
  it.each(boards.filter(([, { firmware }]) => firmware("x").here !== undefined))(
    "%s: a twin, or a restart in a loop, is named",
    { timeout: 120_000 },
    async (name) => {
      const { here, boots } = boardOf(name).firmware;
      if (!here) throw new Error("it has no presence");
      const isLoop = boots === true && name === "newcomer";
      for (let turn = 0; turn < 6; turn += 1) {
        await boardOf(name).say({ ...here(false, ""), retain: true });
        await boardOf(name).say({ ...here(true, isLoop ? `boot-${turn + 1}` : `twin-${turn % 2}`), retain: true });
      }
      await world.client.commission(world.address(name));
      const named = isLoop ? /restarts again and again/ : /two boards|same client id/i;
      await alertsOf(name, (text) => named.test(text));
      const step = await commissioned(name, "presence");
      expect([step.state, step.text]).toEqual(["failed", expect.stringMatching(named)]);
    },
  );

  it("only retained: shown as of unknown age, and no question is answered by it", async () => {
    await boardOf("capitals").say({ topic: "/Hall Lights/capitals/2/STATE", payload: "ON", retain: true });
    await untilChannel(world.client, world.address("capitals/two"), (one) => one.observed?.value === "on");
    await world.pool.query("delete from state_change");
    await world.restart();
    const old = await untilChannel(world.client, world.address("capitals/two"), (one) => one.observed?.value === "on");
    expect([old.observed?.stale, old.observed?.asOf, old.observed?.cause]).toEqual(["retained", null, "retained"]);
    const asked = await world.client.say("is output capitals two on?");
    expect(asked.reply).not.toMatch(/^(?:Yes|No)/);
    expect(asked.reply).toContain("retained, age unknown");
    await boardOf("capitals").say({ topic: "/Hall Lights/capitals/2/STATE", payload: "ON" });
    await untilChannel(world.client, world.address("capitals/two"), (one) => one.observed?.stale === null);
  });

  it("a heater whose meter shows nothing: the relay's word alone proves nothing, and an alert says so", async () => {
    const metered = boardOf("metered");
    metered.fault = "silent";
    await metered.say({ topic: "mt/metered/power", payload: "2" });
    await untilChannel(world.client, world.address("metered/one"), (one) => one.observed?.value === "off");
    const asked = world.ask("metered/one", "on", 40);
    await poll(
      async () => metered.heard.at(-1),
      (last) => last === "1",
    );
    await metered.say({ topic: "mt/metered/one", payload: "1" });
    const request = await asked;
    expect(request.commands[0]).toMatchObject({
      stage: "acknowledged",
      end: expect.stringMatching(/unanswered|failed/),
    });
    await alertsOf("metered", (text) => /reports on, but what sees the channel says off/.test(text));
    metered.fault = "none";
  });

  it("a measured confirmation is marked as such", async () => {
    const metered = boardOf("metered");
    await metered.say({ topic: "mt/metered/one", payload: "0" });
    const request = await world.ask("metered/one", "on", 40);
    expect(request.commands[0]?.verdict.headline).toBe("Confirmed, measured.");
    const trace = await world.client.trace(request.id);
    expect(trace.traces[0]?.hops.find(({ kind }) => kind === "confirmed")).toMatchObject({ measured: true });
  });

  it("a retained command is gone from the broker as soon as it is proven", async () => {
    await world.ask("sleeper/one", "on", 40);
    const late = await world.listener();
    const lying: string[] = [];
    late.on("message", (topic, payload, { retain }) => {
      if (retain && payload.length > 0) lying.push(topic);
    });
    await late.subscribeAsync("sl/sleeper/+/todo", { qos: 1 });
    await late.publishAsync("sl/sleeper/mark", "x", { qos: 1 });
    expect(lying).toEqual([]);
  });
});
