/** Checks cost whoever asks for them: a member's next one comes after everybody else's, and one that nobody waits for ends. */
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { DescriptionChecker } from "../src/model/description-checker.ts";
import { createLog } from "../src/platform/log.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let checker: DescriptionChecker;

beforeAll(async () => {
  world = await createWorld({ start: false });
  checker = new DescriptionChecker(world.config.databaseUrl, [], createLog("silent"));
});
afterAll(async () => {
  await checker.stop();
  await world.stop();
});

const greedy = { memberId: 1, sites: null };
const modest = { memberId: 2, sites: null };
const site = (slug: string) => ({ text: JSON.stringify({ slug, name: slug, rooms: [] }) });

describe("the queue of checks", () => {
  it("serves members in rotation", async () => {
    const order: string[] = [];
    const ask = (slug: string, who: typeof greedy) => checker.site(slug, site(slug), who).then(() => order.push(slug));
    await Promise.all([ask("a1", greedy), ask("a2", greedy), ask("a3", greedy), ask("a4", greedy), ask("b1", modest)]);
    expect(order.indexOf("b1")).toBeLessThanOrEqual(2);
    expect(order.filter((slug) => slug.startsWith("a"))).toEqual(["a1", "a2", "a3", "a4"]);
  });

  it("takes a few of one member, and others all the same", async () => {
    const asked = Array.from({ length: 12 }, (_, at) => checker.site(`c${at}`, site(`c${at}`), greedy));
    const other = checker.site("d", site("d"), modest);
    const settled = await Promise.allSettled(asked);
    expect(settled.some(({ status }) => status === "rejected")).toBe(true);
    expect((await other).plan.version).toBe(0);
  });

  it("ends a check that nobody waits for, also one that has not begun", async () => {
    const gone = new AbortController();
    const wide = JSON.stringify({ slug: "w", name: "W", rooms: Array.from({ length: 50_000 }, () => ({})) });
    const running = checker.site("w", { text: wide }, { ...greedy, gone: gone.signal });
    const waiting = checker.site("x", site("x"), { ...greedy, gone: gone.signal });
    const next = checker.site("y", site("y"), modest);
    gone.abort();
    await expect(running).rejects.toMatchObject({ code: expect.stringMatching(/service-busy|bad-request/) });
    await expect(waiting).rejects.toMatchObject({ code: "service-busy" });
    expect((await next).plan.version).toBe(0);
  });
});
