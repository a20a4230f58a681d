/** What a broker brings again: taken once where it was stored, anew where it was not, and nothing is said before that is certain. */
import type { RequestId } from "@bold-relay/core";
import { expect, it } from "vitest";
import { RecentDeliveries } from "../../src/requests/recent-deliveries.ts";

const id = (text: string) => text as RequestId;
const wait = (_request: RequestId, isKept: Promise<boolean>) => isKept;
const stored = async (onKept: (kept: Promise<boolean>) => void) => {
  onKept(Promise.resolve(true));
  return "taken" as const;
};

it("takes one that was stored only once, and says as what", async () => {
  const deliveries = new RecentDeliveries();
  expect(await deliveries.once("m1", id("r1"), wait, stored)).toBe("taken");
  expect(await deliveries.once("m1", id("r2"), wait, stored)).toEqual({ original: "r1" });
  expect(await deliveries.once("m2", id("r3"), wait, stored)).toBe("taken");
});

it.each<[string, (onKept: (kept: Promise<boolean>) => void) => Promise<never>]>([
  ["was refused before the database", () => Promise.reject(new Error("no such channel"))],
  [
    "the database would not take",
    (onKept) => {
      onKept(Promise.reject(new Error("a row breaks a rule")));
      return Promise.reject(new Error("a row breaks a rule"));
    },
  ],
])("takes anew what %s", async (_what, fail) => {
  const deliveries = new RecentDeliveries();
  await expect(deliveries.once("m1", id("r1"), wait, fail)).rejects.toThrow();
  expect(await deliveries.once("m1", id("r2"), wait, stored)).toBe("taken");
  expect(await deliveries.once("m1", id("r3"), wait, stored)).toEqual({ original: "r2" });
});

it("waits for the fate of the first where its asker was told that nobody knows", async () => {
  const deliveries = new RecentDeliveries();
  let commit: (kept: boolean) => void = () => {};
  const slow = (onKept: (kept: Promise<boolean>) => void) => {
    onKept(new Promise((resolve) => (commit = resolve)));
    return Promise.reject(new Error("nobody knows"));
  };
  await expect(deliveries.once("m1", id("r1"), wait, slow)).rejects.toThrow("nobody knows");
  const impatient = () => Promise.reject(new Error("still nobody knows"));
  await expect(deliveries.once("m1", id("r2"), impatient, stored)).rejects.toThrow("still nobody knows");
  const again = deliveries.once("m1", id("r3"), wait, stored);
  commit(true);
  expect(await again).toEqual({ original: "r1" });
});

it("forgets the oldest of very many", async () => {
  const deliveries = new RecentDeliveries();
  for (let turn = 0; turn < 9_000; turn += 1) await deliveries.once(`m${turn}`, id(`r${turn}`), wait, stored);
  expect(await deliveries.once("m8999", id("x"), wait, stored)).toEqual({ original: "r8999" });
  expect(await deliveries.once("m0", id("y"), wait, stored)).toBe("taken");
});
