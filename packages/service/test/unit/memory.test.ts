/** Memory that nobody uses goes back to the system, and only when nobody waits. */
import { getHeapSpaceStatistics } from "node:v8";
import { describe, expect, it } from "vitest";
import { giveBack, isWorthGivingBack } from "../../src/platform/memory.ts";

const HOUR_MS = 3_600_000;

describe("whether memory is given back", () => {
  it("is given back once after the start, as soon as little is done", () => {
    expect(isWorthGivingBack({ cpuShare: 0.02, residentMb: 150, last: null })).toBe(true);
  });

  it("is not given back while there is work", () => {
    expect(isWorthGivingBack({ cpuShare: 0.4, residentMb: 400, last: null })).toBe(false);
  });

  it("is not given back again for little, nor soon", () => {
    const last = { agoMs: HOUR_MS, residentMb: 100 };
    expect(isWorthGivingBack({ cpuShare: 0.02, residentMb: 105, last })).toBe(false);
    expect(isWorthGivingBack({ cpuShare: 0.02, residentMb: 180, last: { ...last, agoMs: 20_000 } })).toBe(false);
    expect(isWorthGivingBack({ cpuShare: 0.02, residentMb: 130, last })).toBe(true);
  });

  it("is given back sooner where it is much: a large site was loaded", () => {
    const last = { agoMs: 90_000, residentMb: 100 };
    expect(isWorthGivingBack({ cpuShare: 0.02, residentMb: 300, last })).toBe(true);
    expect(isWorthGivingBack({ cpuShare: 0.02, residentMb: 130, last })).toBe(false);
  });
});

describe("giving memory back", () => {
  it("empties the young generation, and the event loop goes on afterwards", async () => {
    const kept: object[] = [];
    for (let turn = 0; turn < 600_000; turn += 1) if (turn % 3 === 0) kept.push({ turn });
    const before = youngBytes();
    await giveBack();
    await new Promise((resolve) => setTimeout(resolve, 1));
    expect(youngBytes()).toBeLessThan(before);
    await giveBack();
    expect(kept).toHaveLength(200_000);
  });
});

function youngBytes(): number {
  return getHeapSpaceStatistics().find(({ space_name }) => space_name === "new_space")?.space_size ?? 0;
}
