/** How guessing is slowed down, with a clock of the test's own. */
import { describe, expect, it } from "vitest";
import { Attempts } from "../src/auth/attempts.ts";

function guesser() {
  let now = 0;
  const attempts = new Attempts(() => now);
  return {
    /** The seconds to wait; 0: it was let through, and counted as a failure. */
    fail(account: string, address = "192.0.2.1", isKnown = false): number {
      try {
        attempts.begin(account, address, isKnown);
        return 0;
      } catch (error) {
        return Number((error as { facts: { seconds: number } }).facts.seconds);
      }
    },
    succeed: (account: string, address = "192.0.2.1") => attempts.begin(account, address, false).succeeded(),
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

  it("from many addresses are one account's, whatever its capitals", () => {
    const { fail } = guesser();
    for (let turn = 0; turn < 5; turn += 1) fail(turn % 2 ? "INES" : "ines", `192.0.2.${turn}`);
    expect(fail("Ines", "192.0.2.200")).toBeGreaterThan(0);
    expect(fail("Ines", "192.0.2.201", true)).toBe(0);
    expect(fail("Tomas", "192.0.2.202")).toBe(0);
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
