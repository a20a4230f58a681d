/** When channels go off by themselves, as far as it is known in memory. */
import { buildSnapshot, type ChannelId, type CommandId } from "@bold-relay/core";
import { expect, it } from "vitest";
import { Deadlines } from "../../src/delivery/deadlines.ts";
import { steadyClock } from "../../src/index.ts";
import { Board } from "../../src/state/board.ts";

const channelId = 7 as ChannelId;

it("what another instance says of a channel takes the place of what the database had", () => {
  const now = steadyClock.now();
  const record = { commandId: "c" as CommandId, channelId, seq: 3, dueAt: now + 1_000, forMs: 5_000, why: "auto-off" };
  const deadlines = new Deadlines(new Board(buildSnapshot([]), steadyClock), steadyClock, [
    record as ConstructorParameters<typeof Deadlines>[2][number],
  ]);
  expect(deadlines.dueAt(channelId)).toBe(record.dueAt);
  deadlines.follow(channelId, now + 9_000);
  expect(deadlines.dueAt(channelId)).toBe(now + 9_000);
  deadlines.follow(channelId, null);
  expect(deadlines.dueAt(channelId)).toBeNull();
  expect(deadlines.takeDue(now + 60_000, () => true)).toEqual([]);
});
