/** Ids of live events: who goes on from one hears everything since, or is told that it is too long ago. */
import type { LiveEvent } from "@bold-relay/api";
import type { ChannelId } from "@bold-relay/core";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { Feed } from "../../src/state/live-feed.ts";

const CHANNEL = 1 as ChannelId;
const changed = { name: "channel", data: {} } as unknown as LiveEvent;
const MINUTES = 60_000;
let feed: Feed;

beforeEach(() => {
  vi.useFakeTimers({ toFake: ["performance", "setTimeout", "clearTimeout"] });
  feed = new Feed({ describe: () => ({ event: changed, sites: null }), siteOf: () => null });
});
afterEach(() => {
  vi.useRealTimers();
});

function change(): void {
  feed.channelChanged(CHANNEL);
  vi.advanceTimersByTime(20);
}

it("who read the board goes on from there, also when nobody listened meanwhile", () => {
  const id = feed.expectListener();
  change();
  vi.advanceTimersByTime(0.9 * MINUTES);
  expect(feed.since(id, null)).toHaveLength(1);
});

it("who read the board too long ago is told so, though nothing came in the first minute", () => {
  const id = feed.expectListener();
  vi.advanceTimersByTime(2 * MINUTES);
  change();
  expect(feed.since(id, null)).toBeNull();
  // Read again, it goes on from there.
  const later = feed.expectListener();
  change();
  expect(feed.since(later, null)).toHaveLength(1);
});

it("a listener that was away for longer than events are kept is told so, though it had heard none", () => {
  const end = feed.subscribe({ sites: null, send: () => {}, end: () => {} });
  const hello = feed.lastId;
  end();
  vi.advanceTimersByTime(2 * MINUTES);
  change();
  expect(feed.since(hello, null)).toBeNull();
});

it("goes on without a gap where nothing changed while it was away", () => {
  const id = feed.expectListener();
  vi.advanceTimersByTime(2 * MINUTES);
  expect(feed.since(id, null)).toEqual([]);
});
