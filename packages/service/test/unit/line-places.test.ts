/** Places for typed sessions, from the aim of whoever wants to keep others out. */
import { EventEmitter } from "node:events";
import type { Socket } from "node:net";
import { describe, expect, it } from "vitest";
import { LinePlaces } from "../../src/inlets/line-places.ts";

class Connection extends EventEmitter {
  destroyed = false;
  readonly remoteAddress: string;
  constructor(remoteAddress: string) {
    super();
    this.remoteAddress = remoteAddress;
  }
  destroy(): void {
    this.destroyed = true;
    this.emit("close");
  }
}

const from = (address: string) => new Connection(address) as unknown as Socket & Connection;

describe("places for typed sessions", () => {
  it("are kept for who has a key, however many addresses hold connections without one", () => {
    const places = new LinePlaces();
    const friend = from("192.0.2.1");
    expect([places.enter(friend), places.signIn(friend, 7)]).toEqual([true, true]);
    for (let address = 0; address < 30; address += 1)
      for (let one = 0; one < 20; one += 1) places.enter(from(`198.51.100.${address}`));
    expect(friend.destroyed).toBe(false);
    const late = from("192.0.2.1");
    expect([places.enter(late), places.signIn(late, 7)]).toEqual([true, true]);
  });

  it("are taken from the address that has most of them", () => {
    const places = new LinePlaces();
    const typing = from("192.0.2.1");
    places.enter(typing);
    const crowd = Array.from({ length: 60 }, (_, one) => from(`198.51.100.${one % 3}`));
    for (const one of crowd) places.enter(one);
    expect(typing.destroyed).toBe(false);
    expect(crowd.filter(({ destroyed }) => destroyed).length).toBeGreaterThan(0);
  });

  it("are 20 for one address and for one key, and come back when a session ends", () => {
    const places = new LinePlaces();
    const sessions = Array.from({ length: 20 }, () => from("192.0.2.9"));
    expect(sessions.map((one) => places.enter(one))).not.toContain(false);
    expect(places.enter(from("192.0.2.9"))).toBe(false);
    expect(sessions.map((one) => places.signIn(one, 1))).not.toContain(false);
    const other = from("192.0.2.9");
    expect([places.enter(other), places.signIn(other, 1), places.signIn(other, 2)]).toEqual([true, false, true]);
    sessions[0]?.destroy();
    const next = from("192.0.2.9");
    expect([places.enter(next), places.signIn(next, 1)]).toEqual([true, true]);
  });
});
