/** Live events: what changed, as it is now, to everybody who listens. */
import type { LiveEvent } from "@bold-relay/api";
import { afterAll, beforeAll, expect, it } from "vitest";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
  await world.board("wren");
});
afterAll(() => world.stop());

it("tells hello, then every change of a channel and of its request, up to the end", async () => {
  const stop = new AbortController();
  const events: LiveEvent[] = [];
  const ended = new Promise<void>((resolve, reject) => {
    const onEvent = (event: LiveEvent) => {
      events.push(event);
      if (event.name === "hello") world.client.ask({ target: "wren/hall", action: "on" }).catch(reject);
      const told = events.some((one) => one.name === "request" && one.data.outcome === "delivered");
      const shown = events.some((one) => one.name === "channel" && one.data.lastCommand?.end === "delivered");
      if (told && shown) resolve();
    };
    world.client.live(onEvent, stop.signal).catch(reject);
  });
  await ended;
  stop.abort();
  expect(events[0]?.name).toBe("hello");
  const last = events.findLast((event) => event.name === "channel");
  expect(last?.data).toMatchObject({
    address: world.address("wren/hall"),
    agreement: "agreed",
    observed: { value: "on" },
  });
});

it("goes on for others when one listener goes away in the middle", async () => {
  const stop = new AbortController();
  await new Promise<void>((resolve) => {
    world.client.live(() => resolve(), stop.signal).catch(() => {});
  });
  stop.abort();
  expect((await world.ask("wren/hall", "off")).outcome).toBe("delivered");
});

it("goes on after the last event that was heard, without a gap; says reset when that is too long ago", async () => {
  const listen = (until: (events: LiveEvent[]) => boolean, lastId?: string) => {
    const stop = new AbortController();
    const events: LiveEvent[] = [];
    let last: string | undefined;
    return new Promise<{ events: LiveEvent[]; last: string | undefined }>((resolve, reject) => {
      const onEvent = (event: LiveEvent, id: string | undefined) => {
        events.push(event);
        last = id ?? last;
        if (until(events)) resolve({ events, last });
      };
      world.client.live(onEvent, stop.signal, lastId).catch(reject);
    }).finally(() => stop.abort());
  };
  const told = (name: LiveEvent["name"]) => (events: LiveEvent[]) => events.some((event) => event.name === name);
  const { last } = await listen(told("hello"));
  const { id } = await world.ask("wren/hall", "on");
  // On a busy machine the request is told twice: while it is open, and when it has ended.
  const ended = (one: LiveEvent) => one.name === "request" && one.data.id === id && one.data.outcome === "delivered";
  const resumed = await listen((events) => events.some(ended), last);
  expect(resumed.events[0]).toMatchObject({ name: "hello", data: { resumed: true } });
  expect(resumed.events.filter((event) => event.name === "channel").at(-1)?.data).toMatchObject({
    observed: { value: "on" },
  });
  const stale = await listen(told("hello"), "00000000-1");
  expect(stale.events.map((event) => event.name)).toEqual(["reset", "hello"]);
});

it("goes on from where the board was read, also when nobody listened meanwhile", async () => {
  const before = (await world.client.board()).event;
  expect((await world.ask("wren/hall", "off")).outcome).toBe("delivered");
  const stop = new AbortController();
  const events: LiveEvent[] = [];
  await new Promise<void>((resolve, reject) => {
    const onEvent = (event: LiveEvent) => {
      events.push(event);
      if (event.name === "channel" && event.data.observed?.value === "off") resolve();
    };
    world.client.live(onEvent, stop.signal, before).catch(reject);
  });
  stop.abort();
  expect(events[0]).toMatchObject({ name: "hello", data: { resumed: true } });
});
