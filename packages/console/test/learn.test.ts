/** Learning a button: listen, press the real one, see it arrive, and make a route from it without typing YAML. */
import { fileURLToPath } from "node:url";
import type { InletDescription } from "@bold-relay/core";
import type { MqttClient } from "mqtt";
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, expect, it } from "vitest";
import { channelNow, poll } from "../../service/test/support/until.ts";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { openBrowser } from "./support/browser.ts";

let world: World;
let device: MqttClient;
let browser: Browser;
let page: Page;

beforeAll(async () => {
  world = await createWorld({
    consoleDir: fileURLToPath(new URL("../dist", import.meta.url)),
    describe: (slug) => ({
      slug,
      name: "Alder Row",
      rooms: [
        {
          slug: "finch",
          name: "Finch",
          devices: [
            {
              slug: "finch",
              name: "relay board",
              profile: "reporting",
              channels: [{ slug: "porch", name: "Porch lantern", kind: "light" as const }],
            },
            {
              slug: "wall",
              name: "wall buttons",
              profile: "reporting",
              channels: ["one", "two"].map((name) => ({
                slug: name,
                name: `Button ${name}`,
                kind: "contact" as const,
              })),
            },
          ],
        },
      ],
    }),
  });
  await world.board("finch", { channels: ["porch"] });
  device = await world.listener();
  browser = await openBrowser();
  page = await browser.newPage({
    viewport: { width: 1280, height: 800 },
    extraHTTPHeaders: { authorization: `Bearer ${world.key}` },
  });
});
afterAll(async () => {
  await browser.close();
  await world.stop();
});

const report = (button: string, to: "on" | "off") =>
  device.publishAsync(`${world.site}/wall/${button}/is`, JSON.stringify({ to, by: "hand" }), { qos: 1 });

async function press(button: string): Promise<void> {
  await report(button, "on");
  await report(button, "off");
}

async function listen(slug: string): Promise<void> {
  await page.goto(`${world.service.url}/inlets/${slug}`);
  await page.getByRole("button", { name: "Listen for arrivals" }).click();
  await page.getByText("Waiting for the first arrival").waitFor();
}

async function makeRoute(row: string, action: string): Promise<void> {
  await page
    .getByRole("listitem")
    .filter({ hasText: row })
    .first()
    .getByRole("button", { name: "Make a route" })
    .click();
  await page.getByLabel("Target", { exact: true }).fill(world.address("finch/porch"));
  await page.getByLabel("Action", { exact: true }).fill(action);
  await page.getByRole("button", { name: "Add route to the text" }).click();
  await page.getByText("Would send commands.").waitFor();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await page.getByText(/^Version 2\./).waitFor();
}

const porchIs = (value: string) =>
  poll(
    () => channelNow(world.client, world.address("finch/porch")),
    (channel) => channel?.observed?.value === value,
  );

it("a wall button is pressed, seen, and switches a lamp from then on", async () => {
  await report("one", "off");
  await report("two", "off");
  const inlet = {
    slug: "buttons",
    name: "Buttons",
    kind: "device",
    site: world.site,
    settings: { debounceMs: 0 },
    routes: [{ name: "other", when: { channel: "wall/two", pressed: "once" }, do: { ignore: true } }],
  };
  await world.client.saveInlet(inlet as InletDescription, 0);
  await listen("buttons");
  await press("one");
  await page.getByText(`${world.site}/wall/one pressed once`).waitFor();
  await makeRoute("wall/one pressed once", "on");
  await press("one");
  await porchIs("on");
  expect((await world.client.log({ limit: 1 })).requests[0]).toMatchObject({ asker: "Button one, Finch" });
});

it("a button that nobody described is heard on its topic, and switches a lamp from then on", async () => {
  const inlet = {
    slug: "topics",
    name: "Topics",
    kind: "topic",
    site: world.site,
    routes: [{ name: "other", when: { topic: "other/{lamp}" }, do: { ignore: true } }],
  };
  await world.client.saveInlet(inlet as InletDescription, 0);
  await listen("topics");
  await page.getByText("the broker cannot tell that no device listens").waitFor();
  const topic = `new-${world.site}/hall-button`;
  await device.publishAsync(topic, "pressed", { qos: 1 });
  await page.getByText(`${topic} pressed`).waitFor();
  await makeRoute(`${topic} pressed`, "off");
  // Its own connection listens there once the broker has said so: until then a message is nobody's.
  await poll(
    async () => (await world.client.inlets()).find(({ slug }) => slug === "topics")?.up,
    (up) => up === true,
  );
  await device.publishAsync(topic, "pressed", { qos: 1 });
  await porchIs("off");
});
