/** Who says nothing of its presence is offline when it was silent for long, counted from when it could have been heard. */
import { buildSnapshot, type ChannelId, type ChannelRecord, type Profile } from "@bold-relay/core";
import { beforeEach, describe, expect, it } from "vitest";
import { SilentDevices } from "../../src/delivery/silent-devices.ts";
import { Board } from "../../src/state/board.ts";

const SILENT_MS = 60_000;
const profile: Profile = {
  slug: "p",
  name: "P",
  codec: "word",
  topics: { do: "b/{device}/do", done: null, is: "b/{device}/is", here: null },
  delivery: { offlineAfterMs: SILENT_MS },
};

const record = (id: number, device: string, delivery: ChannelRecord["delivery"] = {}): ChannelRecord => ({
  ...{
    id: id as ChannelId,
    number: id,
    slug: `out-${id}`,
    name: `Out ${id}`,
    kind: "relay",
    delivery,
    wiring: {},
    profile,
  },
  ...{ site: { slug: "hall", name: "Hall" }, room: { slug: "yard", name: "Yard" } },
  device: { id: device.length, slug: device, name: device },
});

let now: number;
let board: Board;
let silent: SilentDevices;
const online = (device: string) => board.presenceOf(`hall/${device}`)?.up ?? null;

beforeEach(() => {
  now = 1_800_000_000_000;
  const clock = { now: () => now } as never;
  board = new Board(buildSnapshot([record(1, "old")]), clock);
  const feed = { channelChanged: () => {} } as never;
  silent = new SilentDevices({ clock, board, feed, channels: () => board.snapshot.channels });
});

const passes = (ms: number) => {
  now += ms;
  silent.sweep();
};

describe("devices that say nothing of their presence", () => {
  it("are not offline while the link is down, nor before they had the time to speak after it came up", () => {
    passes(10 * SILENT_MS);
    expect(online("old")).toBeNull();
    silent.linkUp();
    passes(SILENT_MS - 1);
    expect(online("old")).toBeNull();
    passes(1);
    expect(online("old")).toBe(false);
  });

  it("that are new, or new here, have their time from when they came", () => {
    silent.linkUp();
    passes(SILENT_MS / 2);
    silent.heard("hall/old");
    now += SILENT_MS * 5;
    board.adopt(buildSnapshot([record(1, "old"), record(2, "newer")]));
    silent.sweep();
    expect([online("old"), online("newer")]).toEqual([false, null]);
    passes(SILENT_MS);
    expect(online("newer")).toBe(false);
  });

  it("have the longest time that one of their channels has, and none where no profile says so", () => {
    const never = { ...record(4, "said"), profile: { ...profile, delivery: {} } };
    board.adopt(buildSnapshot([record(1, "old"), record(2, "old", { offlineAfterMs: 2 * SILENT_MS }), never]));
    silent.linkUp();
    passes(SILENT_MS);
    expect(online("old")).toBeNull();
    passes(SILENT_MS);
    expect([online("old"), online("said")]).toEqual([false, null]);
    expect([silent.watches("hall/old"), silent.watches("hall/said")]).toEqual([true, false]);
  });
});
