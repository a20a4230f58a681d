/** Three routes from requests that came, made without typing YAML: of words that were not understood, of fields, and of a topic. */
import { fileURLToPath } from "node:url";
import { connectAsync } from "mqtt";
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, expect, inject, it } from "vitest";
import { createInletWorld, type InletWorld } from "../../service/test/support/inlets.ts";
import { brokerUrl } from "../../service/test/support/servers.ts";
import { poll } from "../../service/test/support/until.ts";
import type { World } from "../../service/test/support/world.ts";
import { openBrowser } from "./support/browser.ts";

let inlets: InletWorld;
let world: World;
let browser: Browser;
let page: Page;

beforeAll(async () => {
  inlets = await createInletWorld(fileURLToPath(new URL("../dist", import.meta.url)));
  world = inlets.world;
  browser = await openBrowser();
  page = await browser.newPage({
    viewport: { width: 1280, height: 800 },
    extraHTTPHeaders: { authorization: `Bearer ${world.key}` },
  });
});
afterAll(async () => {
  await browser.close();
  await inlets.stop();
});

/** Opens the newest request of an inlet in the log, and makes a route of it. */
async function makeRouteOfNewest(inlet: string): Promise<void> {
  const newest = await poll(
    async () => (await world.client.log({ limit: 10 })).requests.find((one) => one.inlet === inlet),
    (request) => request !== undefined,
  );
  await page.goto(`${world.service.url}/log/trace/${newest?.id}`);
  await page.getByRole("link", { name: "Make a route from this request" }).click();
  await page.getByRole("region", { name: "Make a route" }).waitFor();
}

async function addAndSave(): Promise<void> {
  await page.getByRole("button", { name: "Add route to the text" }).click();
  await page.getByRole("region", { name: "Make a route" }).waitFor({ state: "detached" });
  await page.getByText("Would send commands.").waitFor();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await page.getByText(/^Version 2\./).waitFor();
}

it("words that were not understood become a route, and phrases go on", async () => {
  const key = await inlets.make({ slug: "maker-chat", kind: "chat", senders: ["porch-room/*"] });
  const say = (text: string) => inlets.post("maker-chat", key, { text, sender: "ana", room: "porch-room" });
  expect((await say("movie night")).body.outcome).toBe("not-understood");
  await makeRouteOfNewest("maker-chat");
  await page.getByLabel("Target", { exact: true }).fill(world.address("wren/porch"));
  await page.getByLabel("Action", { exact: true }).fill("off");
  await page.getByLabel("Reply when it is done").fill("Enjoy the film.");
  await addAndSave();
  expect((await say("Movie night!")).body).toMatchObject({ outcome: "delivered", reply: "Enjoy the film." });
  expect((await say("hall light in wren on")).body).toMatchObject({
    outcome: "delivered",
    reply: expect.not.stringContaining("film"),
  });
  expect(await inlets.isNow("wren/hall")).toBe("on");
});

it("fields become literals and holes", async () => {
  const key = await inlets.make({
    slug: "maker-hook",
    kind: "hook",
    routes: [{ name: "old", when: { fields: { "/type": "other", "/cottage": "{c}" } }, do: { ignore: true } }],
  });
  const post = (cottage: string) => inlets.post("maker-hook", key, { type: "arrived", cottage });
  await post("wren");
  await makeRouteOfNewest("maker-hook");
  await page.getByLabel("Field /cottage: what the route wants").selectOption("hole");
  await page.getByLabel("Field /cottage: name of the hole").fill("where");
  await page.getByLabel("Target", { exact: true }).fill("{where}/porch");
  await page.getByLabel("Action", { exact: true }).fill("on");
  await addAndSave();
  expect((await post("finch")).body.outcome).toBe("delivered");
  expect(await inlets.isNow("finch/porch")).toBe("on");
});

it("a topic becomes a filter, its payload a value by pairs", async () => {
  const root = `${world.site}-maker`;
  const old = { name: "old", when: { topic: `${root}/{n}/{k}` }, do: { phrase: "fountain {payload}" } } as const;
  await inlets.make({ slug: "maker-topic", kind: "topic", routes: [old] });
  await inlets.untilUp("maker-topic");
  const access = { username: "tester", password: inject("brokerPassword"), protocolVersion: 5 } as const;
  const client = await connectAsync(brokerUrl(), access);
  await client.publishAsync(`${root}/finch/2`, "press", { qos: 1 });
  await makeRouteOfNewest("maker-topic");
  await page.getByLabel("Target", { exact: true }).fill(world.address("finch/hall"));
  await page.getByLabel("Action", { exact: true }).fill("{payload}");
  await page.getByRole("button", { name: "Add pair" }).click();
  await page.getByLabel("Meaning 1").fill("on");
  await addAndSave();
  await client.publishAsync(`${root}/finch/2`, "press", { qos: 1 });
  await poll(
    () => inlets.isNow("finch/hall"),
    (value) => value === "on",
  );
  await client.endAsync();
});

it("routes are moved by keys, with what is rehearsed beside them", async () => {
  await page.goto(`${world.service.url}/inlets/maker-topic`);
  await page.getByText("Order of routes").first().click();
  await page.getByRole("button", { name: "Move up old" }).click();
  await page.getByRole("list", { name: "Order of routes" }).getByText("old").waitFor();
  const first = page.getByRole("list", { name: "Order of routes" }).getByRole("listitem").first();
  expect(await first.textContent()).toContain("old");
  await page.getByText("Not saved. The rehearsal uses your changes.").waitFor();
});
