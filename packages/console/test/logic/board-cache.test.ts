/** The Board that is read while it changes. */
import type { BoardView, ChannelView } from "@bold-relay/api";
import { expect, it } from "vitest";
import { asLastHeard, BoardReader, withChannel } from "../../src/live/board-cache.ts";

const lamp = (value: string) => ({ address: "glasshouse/bay/lamp", observed: { value } }) as unknown as ChannelView;
const pump = { address: "glasshouse/bay/pump" } as ChannelView;
const board = (...channels: ChannelView[]) =>
  ({ at: "", sites: [{ slug: "glasshouse", channels }] }) as unknown as BoardView;

it("a change that arrives before an older answer of the service is not lost", async () => {
  let answer: (board: BoardView) => void = () => {};
  const reader = new BoardReader(() => new Promise((resolve) => (answer = resolve)));
  const reading = reader.read();
  reader.changed(lamp("on"));
  answer(board(lamp("off"), pump));
  expect(await reading).toEqual(board(lamp("on"), pump));
});

it("the newest of several changes stands, in each of two readings under way", async () => {
  const answers: ((board: BoardView) => void)[] = [];
  const reader = new BoardReader(() => new Promise((resolve) => answers.push(resolve)));
  const first = reader.read();
  reader.changed(lamp("on"));
  const second = reader.read();
  reader.changed(lamp("dimmed"));
  for (const answer of answers) answer(board(lamp("off")));
  expect([await first, await second]).toEqual([board(lamp("dimmed")), board(lamp("dimmed"))]);
});

it("what changed before the reading began is in the answer already", async () => {
  const reader = new BoardReader(async () => board(lamp("off")));
  reader.changed(lamp("on"));
  expect(await reader.read()).toEqual(board(lamp("off")));
});

it("a channel that the board does not have changes nothing", () => {
  expect(withChannel(board(pump), lamp("on"))).toEqual(board(pump));
});

it("of a board without a connection nothing counts as known, and what was old before keeps its age", () => {
  const known = {
    address: "glasshouse/bay/lamp",
    observed: { value: "on", stale: null, asOf: "2026-11-28T08:00:00.000Z" },
  };
  const old = {
    address: "glasshouse/bay/fan",
    observed: { value: "on", stale: "offline", asOf: "2026-11-28T07:00:00.000Z" },
  };
  const since = Date.parse("2026-11-28T09:00:00Z");
  const aged = asLastHeard(board(known as ChannelView, old as ChannelView), since).sites[0]?.channels;
  expect(aged?.[0]?.observed).toMatchObject({ value: "on", stale: "unheard", asOf: "2026-11-28T09:00:00.000Z" });
  expect(aged?.[1]).toBe(old);
});
