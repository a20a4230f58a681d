/** What other instances tell of their channels, while channels change hands. */
import type { ChannelId } from "@bold-relay/core";
import { afterEach, expect, it, vi } from "vitest";
import { createLog } from "../../src/index.ts";
import { FactFollow, type FactFollowDeps } from "../../src/sharing/fact-follow.ts";
import type { FactFrame } from "../../src/sharing/fact-source.ts";

const LAMP = 7 as ChannelId;

let follow: FactFollow | null = null;
afterEach(() => {
  follow?.stop();
  vi.useRealTimers();
});

/** An instance that follows two others. What they tell and when their streams end is up to the test. */
function instance({ ledHere = false, isKnown = true } = {}) {
  vi.useFakeTimers();
  const seen = { value: null as unknown, ledHere, isKnown };
  const streams = new Map<string, { tell: (frame: FactFrame) => void; end: () => void }>();
  const entry = { site: { slug: "alder-row" }, device: { address: "alder-row/wren" } };
  const deps = {
    board: {
      snapshot: { byId: { get: () => (seen.isKnown ? entry : undefined), has: () => seen.isKnown }, sites: [] },
      setFacts: (_id: ChannelId, facts: { value: string }) => {
        seen.value = facts.value;
      },
      setPresence: () => {},
      unhear: () => {
        seen.value = "unheard";
      },
    },
    deadlines: { follow: () => {} },
    feed: { channelChanged: () => {} },
    presences: { follow: () => {}, forget: () => {} },
    shards: { leads: () => seen.ledHere },
    log: createLog("silent"),
    peers: {
      heard: () => {},
      unheard: () => {},
      others: () => ["one", "two"].map((name) => ({ name, address: name })),
      calls: {
        follow: (peer: { name: string }, _verb: string, tell: (frame: FactFrame) => void) =>
          new Promise<string>((resolve) => streams.set(peer.name, { tell, end: () => resolve("it has ended") })),
      },
    },
  };
  follow = new FactFollow(deps as unknown as FactFollowDeps);
  follow.update();
  return {
    seen,
    tell: (name: string, value: string) =>
      streams
        .get(name)
        ?.tell({ channels: [{ id: LAMP, facts: { value }, dueAt: null, presence: null, presences: [] }] } as never),
    async end(name: string) {
      streams.get(name)?.end();
      await vi.advanceTimersByTimeAsync(0);
    },
  };
}

it("what a leader tells is believed, and unheard once its stream ends", async () => {
  const { seen, tell, end } = instance();
  tell("one", "on");
  expect(seen.value).toBe("on");
  await end("one");
  expect(seen.value).toBe("unheard");
});

it("what its new leader tells stays when the stream of the one before ends", async () => {
  const { seen, tell, end } = instance();
  tell("one", "on");
  tell("two", "off");
  await end("one");
  expect(seen.value).toBe("off");
});

it("what its new leader tells while it is still led here counts once it is let go", async () => {
  const { seen, tell } = instance({ ledHere: true });
  tell("two", "off");
  await vi.advanceTimersByTimeAsync(1_000);
  expect(seen.value).toBeNull();
  seen.ledHere = false;
  await vi.advanceTimersByTimeAsync(1_000);
  expect(seen.value).toBe("off");
});

it("what the leader before said does not count when it is let go much later", async () => {
  const { seen, tell } = instance({ ledHere: true });
  tell("one", "on");
  await vi.advanceTimersByTimeAsync(20_000);
  seen.ledHere = false;
  await vi.advanceTimersByTimeAsync(1_000);
  expect(seen.value).toBeNull();
});

it("what is told of a channel before its site is known counts once it is", async () => {
  const { seen, tell } = instance({ isKnown: false });
  tell("two", "on");
  seen.isKnown = true;
  await vi.advanceTimersByTimeAsync(1_000);
  expect(seen.value).toBe("on");
});
