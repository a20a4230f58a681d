/** The lane runner hands events to lanes and carries their effects out: in order, once, and only what is on record. */
import {
  buildSnapshot,
  type ChannelId,
  type ChannelRecord,
  type Command,
  type CommandId,
  commandOrder,
  newCommand,
  type Profile,
  type RequestId,
  type Value,
  type Writing,
} from "@bold-relay/core";
import { pino } from "pino";
import { describe, expect, it } from "vitest";
import type { Publication } from "../../src/broker/link-listener.ts";
import { LaneRunner } from "../../src/delivery/lane-runner.ts";
import { newId } from "../../src/platform/id.ts";
import { Board } from "../../src/state/board.ts";

const profile: Profile = {
  slug: "p",
  name: "P",
  codec: "json",
  topics: { do: "b/{channel}/do", done: "b/{channel}/done", is: null, here: null },
  delivery: { targetStage: "acknowledged" },
};

function runner(kind: ChannelRecord["kind"]) {
  const clock = { now: () => now };
  let now = 1_800_000_000_000;
  const record: ChannelRecord = {
    ...{ id: 1 as ChannelId, number: 1, slug: "porch", name: "Porch", kind, delivery: {}, wiring: {}, profile },
    ...{ site: { slug: "hall", name: "Hall" }, room: { slug: "yard", name: "Yard" } },
    device: { id: 1, slug: "board", name: "Board" },
  };
  const board = new Board(buildSnapshot([record]), clock as never);
  const [channel] = board.snapshot.channels;
  if (!channel) throw new Error("no channel");
  const written: { readonly publication: Publication; readonly receipt: (code: number) => void }[] = [];
  const changes: Command[] = [];
  const kept: { resolve: () => void; reject: (error: Error) => void }[] = [];
  const link = {
    isReady: true,
    isHeld: (_messageOf: () => Writing | null) => false,
    publish: (publication: Publication, receipt: (code: number) => void) => void written.push({ publication, receipt }),
  };
  const lanes = new LaneRunner({
    ...{ clock: clock as never, log: pino({ level: "silent" }), board, link },
    knownOf: () => null,
    onWritten: () => {},
    traceOf: () => "trace",
    commands: {
      changed: (command) => void changes.push(command),
      keepSending: () => new Promise<void>((resolve, reject) => kept.push({ resolve, reject })),
    },
  });
  let seq = 0;
  return {
    ...{ lanes, link, written, changes, kept },
    pass: (ms: number) => {
      now += ms;
    },
    ask(to: Value): CommandId {
      seq += 1;
      const order = { channel, to, urgent: false, forMs: null, clearWithinMs: null, blocked: null };
      const place = { requestId: newId() as RequestId, seq, byRule: false, askedAt: now };
      const command = newCommand(commandOrder(channel, newId() as CommandId, order, place, null), now);
      lanes.dispatch(channel.id, { type: "accept", command });
      return command.id;
    },
    answer: (command: CommandId) =>
      lanes.dispatch(channel.id, { type: "done", id: command, ok: true, code: 1, wire: { topic: "t", payload: "p" } }),
    ends: () => changes.flatMap(({ id, end }) => (end === null ? [] : [[id, end] as const])),
  };
}

const ids = (written: readonly { readonly publication: Publication }[]) =>
  written.map(({ publication }) => JSON.parse(Buffer.from(publication.payload).toString()).id);

describe("the lane runner", () => {
  it("writes one command at a time, and the newest of those that wait", () => {
    const one = runner("relay");
    const [first, middle, last] = [one.ask("on"), one.ask("off"), one.ask("on")];
    expect(ids(one.written)).toEqual([first]);
    one.answer(first);
    expect(ids(one.written)).toEqual([first, last]);
    expect(one.ends()).toContainEqual([middle, "replaced"]);
  });

  it("writes nothing while the link is down, and what is still wanted when it is back", () => {
    const one = runner("relay");
    one.link.isReady = false;
    const asked = one.ask("on");
    expect(one.written).toEqual([]);
    one.link.isReady = true;
    one.lanes.dispatchAll({ type: "wake" });
    expect(ids(one.written)).toEqual([asked]);
  });

  it("writes a pulse only once it is on record that it will be, and never again", async () => {
    const one = runner("pulse");
    const asked = one.ask("pulse");
    expect([one.written.length, one.kept.length]).toEqual([0, 1]);
    one.kept[0]?.resolve();
    await new Promise<void>((resolve) => setImmediate(resolve));
    expect(ids(one.written)).toEqual([asked]);
    one.pass(60_000);
    one.lanes.sweep(100);
    expect(ids(one.written)).toEqual([asked]);
    expect(one.ends()).toEqual([[asked, "unanswered"]]);
  });

  it("does not write a pulse that could not be put on record", async () => {
    const one = runner("pulse");
    one.ask("pulse");
    one.kept[0]?.reject(new Error("the database is away"));
    await new Promise<void>((resolve) => setImmediate(resolve));
    expect(one.written).toEqual([]);
  });

  it("wakes what is due and nothing else", () => {
    const one = runner("relay");
    const asked = one.ask("on");
    one.lanes.sweep(100);
    expect(ids(one.written)).toEqual([asked]);
    one.pass(5_000);
    one.lanes.sweep(100);
    expect(ids(one.written)).toEqual([asked, asked]);
  });

  it("ends what its lane must not take, with the reason", () => {
    const one = runner("relay");
    const asked = one.ask("on");
    const [command] = one.changes;
    if (!command) throw new Error("no command");
    one.lanes.refuse(command, "locked-out");
    expect(one.ends()).toEqual([[asked, expect.any(String)]]);
    expect(one.changes.at(-1)?.reason).toBe("locked-out");
  });

  it("ends a command whose bytes would move a locked-out output, before and between its attempts, and never says it was sent", () => {
    const one = runner("relay");
    one.link.isHeld = (messageOf) => messageOf()?.topic === "b/porch/do";
    const asked = one.ask("on");
    expect([one.written, one.ends()]).toEqual([[], [[asked, "failed"]]]);
    expect(one.changes.at(-1)).toMatchObject({ reason: "locked-out", attempts: 0 });
    one.link.isHeld = () => false;
    const second = one.ask("off");
    expect(ids(one.written)).toEqual([second]);
    one.link.isHeld = () => true;
    one.pass(5_000);
    one.lanes.sweep(100);
    expect(ids(one.written)).toEqual([second]);
    expect(one.changes.at(-1)).toMatchObject({ id: second, reason: "locked-out", end: "unanswered" });
  });
});
