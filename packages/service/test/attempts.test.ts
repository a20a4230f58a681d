/** How guessing is slowed down, with a clock of the test's own. */
import { describe, expect, it } from "vitest";
import { Attempts } from "../src/auth/attempts.ts";

function guesser() {
  let now = 0;
  const attempts = new Attempts(() => now);
  return {
    attempts,
    /** The seconds to wait; 0: it was let through, and counted as a failure. */
    fail(account: string, address = "192.0.2.1", isKnown = false, step: "only" | "first" | "second" = "only"): number {
      try {
        attempts.begin(account, address, isKnown ? "address" : null, step);
        return 0;
      } catch (error) {
        return Number((error as { facts: { seconds: number } }).facts.seconds);
      }
    },
    succeed: (account: string, address = "192.0.2.1") => attempts.begin(account, address, null).succeeded(),
    pass: (seconds: number) => {
      now += seconds * 1000;
    },
  };
}

describe("guesses at an account", () => {
  it("wait twice as long each time, a minute at most", () => {
    const { fail, pass } = guesser();
    for (let turn = 0; turn < 5; turn += 1) expect(fail("Ines")).toBe(0);
    const waits: number[] = [];
    for (let turn = 0; turn < 9; turn += 1) {
      const seconds = fail("Ines");
      waits.push(seconds);
      pass(seconds);
      expect(fail("Ines")).toBe(0);
    }
    expect(waits).toEqual([1, 2, 4, 8, 16, 32, 60, 60, 60]);
  });

  it("from one address keep nobody out who comes from another", () => {
    const { fail, pass } = guesser();
    for (let turn = 0; turn < 20; turn += 1) {
      pass(fail("Ines", "203.0.113.7"));
      fail("Ines", "203.0.113.7");
      expect(fail("ines", `192.0.${turn}.1`)).toBe(0);
    }
  });

  it("from very many addresses are one account's, whatever its capitals; who is known, or has a second factor, is not kept out", () => {
    const { fail } = guesser();
    for (let turn = 0; turn <= 60; turn += 1) expect(fail(turn % 2 ? "INES" : "ines", `192.0.${turn}.1`)).toBe(0);
    expect(fail("Ines", "192.0.200.1")).toBeGreaterThan(0);
    expect(fail("Ines", "192.0.201.1", true)).toBe(0);
    expect(fail("Ines", "192.0.202.1", false, "first")).toBe(0);
    expect(fail("Tomas", "192.0.203.1")).toBe(0);
  });

  it("at a second factor, from very many addresses, are few", () => {
    const { fail } = guesser();
    const waits = Array.from({ length: 12 }, (_, turn) => fail("Ines", `192.0.${turn}.1`, false, "second"));
    expect(waits.filter((seconds) => seconds === 0)).toHaveLength(9);
    expect(fail("Ines", "192.0.200.1", false, "first")).toBe(0);
  });

  it("whose own account opens meanwhile are not forgotten", () => {
    const { fail, succeed } = guesser();
    for (let turn = 0; turn < 21; turn += 1) {
      expect(fail(`member ${turn}`)).toBe(0);
      if (turn % 3 === 0 && turn < 20) succeed("Mole");
    }
    expect(fail("one more")).toBeGreaterThan(0);
  });

  it("at made-up names keep no colleague out who has signed in from there before", () => {
    const { fail } = guesser();
    for (let turn = 0; turn < 40; turn += 1) fail(`nobody ${turn}`);
    expect(fail("Ines", "192.0.2.1", true)).toBe(0);
    expect(fail("Tomas")).toBeGreaterThan(0);
  });

  it("at all colleagues, from where they are known, are slowed down there, and their own success clears nothing", () => {
    const { attempts, fail } = guesser();
    for (let turn = 0; turn < 41; turn += 1) {
      if (turn % 10 === 9) attempts.begin("Mole", "192.0.2.1", "address").succeeded();
      expect(fail(`colleague ${turn}`, "192.0.2.1", true)).toBe(0);
    }
    expect(fail("one more", "192.0.2.1", true)).toBeGreaterThan(0);
    expect(fail("one more", "198.51.100.1", true)).toBe(0);
  });

  it("are forgotten after a while, and by a success", () => {
    const { fail, succeed, pass } = guesser();
    for (let turn = 0; turn < 5; turn += 1) fail("Ines");
    pass(16 * 60);
    expect(fail("Ines")).toBe(0);
    succeed("Ines");
    for (let turn = 0; turn < 5; turn += 1) expect(fail("Ines")).toBe(0);
  });

  it("at many accounts from one address, or one network of IPv6, slow that down", () => {
    const { fail } = guesser();
    for (let turn = 0; turn < 21; turn += 1) expect(fail(`member ${turn}`, `2001:db8:1:2::${turn}`)).toBe(0);
    expect(fail("one more", "2001:db8:1:2:ffff::1")).toBeGreaterThan(0);
    expect(fail("one more", "2001:db8:1:3::1")).toBe(0);
  });
});
