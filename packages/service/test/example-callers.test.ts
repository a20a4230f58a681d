/** The callers of `examples/`: each kind of inlet in each language, from the program's call to a delivered request. */
import { randomBytes } from "node:crypto";
import { mkdtempSync, rmSync } from "node:fs";
import { readFile } from "node:fs/promises";
import { createServer, type Server } from "node:http";
import { tmpdir } from "node:os";
import path from "node:path";
import type { InletDescription } from "@bold-relay/core";
import { freePort } from "@bold-relay/rig";
import { afterAll, beforeAll, describe, expect, inject, it } from "vitest";
import { type RunningExample, runExample, startExample } from "./support/examples.ts";
import { brokerUrl } from "./support/servers.ts";
import { poll, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

const LANGUAGES = ["sh", "py", "mjs"] as const;

let world: World;
let sheetPorts: number[];
const running: RunningExample[] = [];

beforeAll(async () => {
  sheetPorts = await Promise.all(LANGUAGES.map(() => freePort()));
  world = await createWorld({
    environment: {
      BOLD_RELAY_SECRETS_KEY: randomBytes(32).toString("base64"),
      BOLD_RELAY_MAY_CALL: sheetPorts.map((port) => `127.0.0.1:${port}`).join(","),
    },
  });
  await world.board("wren");
});
afterAll(async () => {
  await Promise.all(running.map((one) => one.cutPower()));
  await world.stop();
});

async function make(inlet: Omit<InletDescription, "site" | "name">): Promise<{ URL: string; KEY: string }> {
  await world.client.saveInlet({ name: inlet.slug, site: world.site, ...inlet }, null);
  const { key } = await world.client.addKey({ name: "example", inlet: inlet.slug });
  return { URL: `${world.service.url}/in/${inlet.slug}`, KEY: key };
}

const untilUp = (slug: string) =>
  poll(
    () => world.client.inlets(),
    (all) => all.find((one) => one.slug === slug)?.up === true,
    { what: `the inlet ${slug}` },
  );

/** The newest request of an inlet: what the service itself says of the example. */
async function newestOf(slug: string): Promise<{ outcome: string } | undefined> {
  const { requests } = await world.client.log({});
  return requests.find(({ inlet }) => inlet === slug);
}

describe.each(LANGUAGES)("in %s", (language) => {
  const example = (kind: string) => `callers/${kind}.${language}`;
  const slug = (kind: string) => `${kind}-${language}`;
  const isDelivered = async (kind: string) =>
    expect(await newestOf(slug(kind))).toMatchObject({ outcome: "delivered" });

  it("web", async () => {
    const access = await make({ slug: slug("web"), kind: "web" });
    const said = await runExample(example("web"), { ...access, TARGET: world.address("wren/hall"), ACTION: "on" });
    expect(said).toContain("delivered");
    await isDelivered("web");
  });

  it("hook, signed", async () => {
    const { URL } = await make({
      slug: slug("hook"),
      kind: "hook",
      routes: [
        {
          when: { fields: { "/type": "arrived", "/cottage": "{cottage}" } },
          do: { phrase: "porch lantern in {cottage} on" },
        },
      ],
    });
    const { secret } = await world.client.makeSecret(slug("hook"));
    const said = await runExample(example("hook"), {
      URL,
      SECRET: secret,
      EVENT: '{"type":"arrived","cottage":"wren"}',
    });
    expect(said).toContain("Porch lantern");
    await isDelivered("hook");
    await expect(
      runExample(example("hook"), {
        URL,
        SECRET: `whsec_${"A".repeat(32)}`,
        EVENT: '{"type":"arrived","cottage":"wren"}',
      }),
    ).rejects.toThrow();
  });

  it("call", async () => {
    const access = await make({ slug: slug("call"), kind: "call" });
    const said = await runExample(example("call"), { ...access, TARGET: world.address("wren/path"), ARGUMENT: "on" });
    expect(said).toContain("delivered");
    await isDelivered("call");
  });

  it("chat", async () => {
    const access = await make({ slug: slug("chat"), kind: "chat", senders: ["porch-room/*"] });
    const said = await runExample(example("chat"), {
      ...access,
      ROOM: "porch-room",
      SENDER: "ana",
      TEXT: "hall light in wren off please",
    });
    expect(said).toContain("Hall light");
    await isDelivered("chat");
  });

  it("topic, answered on the response topic", async () => {
    await make({
      slug: slug("topic"),
      kind: "topic",
      settings: { answer: true },
      routes: [
        { when: { topic: `${world.site}-${language}/{lamp}` }, do: { target: "wren/{lamp}", action: "{payload}" } },
      ],
    });
    await untilUp(slug("topic"));
    const { hostname, port } = new URL(brokerUrl());
    const access = { BROKER: hostname, PORT: port, MQTT_USER: "tester", MQTT_PASSWORD: inject("brokerPassword") };
    const said = await runExample(example("topic"), {
      ...access,
      TOPIC: `${world.site}-${language}/hall`,
      PAYLOAD: "on",
    });
    expect(said).toContain("delivered");
    await isDelivered("topic");
  });

  it("line", async () => {
    const port = await freePort();
    const { KEY } = await make({ slug: slug("line"), kind: "line", settings: { port } });
    await untilUp(slug("line"));
    const said = await runExample(example("line"), { PORT: String(port), KEY, PHRASE: "path lights in wren off" });
    expect(said).toContain("Path lights");
    await isDelivered("line");
  });

  it("keypad, with its PIN", async () => {
    const menu = { say: "One for the hall.", keys: { "1": { phrase: "hall light in wren toggle" } } };
    const access = await make({ slug: slug("keypad"), kind: "keypad", settings: { pin: "2580", menu } });
    const said = await runExample(example("keypad"), { ...access, KEYS: "2580 1" });
    expect(said).toContain("One for the hall.");
    await isDelivered("keypad");
  });
});

describe("a sheet", () => {
  const wish = { CHANNEL: "porch lantern in wren", WANT: "off" };

  it.each([
    ["py", 1],
    ["mjs", 2],
  ] as const)("in %s, and gets the states back", async (language, place) => {
    await world.ask("wren/porch", "on");
    const address = `http://127.0.0.1:${sheetPorts[place]}`;
    const sheet = startExample(`callers/sheet.${language}`, { ...wish, PORT: String(sheetPorts[place]) });
    running.push(sheet);
    const settings = { url: `${address}/sheet.csv`, everyS: 0.2, writeUrl: `${address}/states.csv` };
    await make({ slug: `sheet-${language}`, kind: "sheet", settings });
    await untilChannel(world.client, world.address("wren/porch"), ({ observed }) => observed?.value === "off");
    expect(
      await poll(
        () => newestOf(`sheet-${language}`),
        (one) => one?.outcome !== "open",
      ),
    ).toMatchObject({ outcome: "delivered" });
    await poll(
      async () => sheet.output(),
      (output) => output.includes(world.address("wren/porch")),
    );
    await world.client.removeInlet(`sheet-${language}`);
  });

  it("in sh, beside any web server that offers the file", async () => {
    await world.ask("wren/porch", "on");
    const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-sheet-"));
    const file = path.join(folder, "sheet.csv");
    const looks: number[] = [];
    const server = await offer(file, sheetPorts[0] ?? 0, () => looks.push(1));
    try {
      await runExample("callers/sheet.sh", { SHEET: file, CHANNEL: "hall light in wren", WANT: "off" });
      await make({
        slug: "sheet-sh",
        kind: "sheet",
        settings: { url: `http://127.0.0.1:${sheetPorts[0]}/sheet.csv`, everyS: 0.2 },
      });
      await poll(
        async () => looks.length,
        (many) => many > 1,
        { what: "a second look" },
      );
      await runExample("callers/sheet.sh", { SHEET: file, ...wish });
      await untilChannel(world.client, world.address("wren/porch"), ({ observed }) => observed?.value === "off");
      expect(
        await poll(
          () => newestOf("sheet-sh"),
          (one) => one?.outcome !== "open",
        ),
      ).toMatchObject({ outcome: "delivered" });
    } finally {
      server.close();
      rmSync(folder, { recursive: true });
    }
  });
});

async function offer(file: string, port: number, looked: () => void): Promise<Server> {
  const server = createServer((_request, response) => {
    looked();
    readFile(file).then((csv) => response.writeHead(200, { "content-type": "text/csv" }).end(csv));
  });
  return new Promise((resolve) => server.listen(port, "127.0.0.1", () => resolve(server)));
}
