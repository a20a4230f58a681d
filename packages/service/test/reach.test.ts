/** How the service reaches its broker, and devices that speak no MQTT from its own process: over TLS, with certificates. */
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { shippedProfiles } from "@bold-relay/core";
import { type Broker, type Certificates, findPrograms, freePort, makeCertificates, startBroker } from "@bold-relay/rig";
import { HttpBoard } from "@bold-relay/standins";
import { connectAsync } from "mqtt";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createLog, readConfig, startService } from "../src/index.ts";
import { poll, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

const PASSWORD = "a password for loopback";
const ON = { username: "service", password: PASSWORD };

let folder: string;
let certificates: Certificates;
let broker: Broker;
let world: World;
let board: HttpBoard;

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), "reach-"));
  // The broker runs as a user of its own.
  chmodSync(folder, 0o755);
  const servers = path.join(folder, "broker");
  certificates = makeCertificates(servers);
  const users = [{ name: ON.username, password: PASSWORD, topics: "service" as const }];
  const port = await freePort();
  broker = await startBroker({ programs: findPrograms(), folder: servers, port, users, certificates });
  const { site, device, channels } = {
    site: "hall",
    device: "cellar",
    channels: [{ slug: "one", kind: "relay" as const }],
  };
  board = new HttpBoard({ site, device, channels });
  await board.start();
  world = await createWorld({
    start: false,
    profiles: shippedProfiles.filter(({ slug }) => slug === "behind-translator"),
    describe: (slug) => ({
      slug,
      name: "Fennel Hall",
      rooms: [
        {
          slug: "cellar",
          name: "Cellar",
          devices: [
            {
              slug: "cellar",
              name: "old web board",
              profile: "behind-translator",
              channels: [{ slug: "one", name: "Boiler", kind: "relay" }],
            },
          ],
        },
      ],
    }),
  });
});
afterAll(async () => {
  await world.stop();
  await board.stop();
  await broker.stop();
  rmSync(folder, { recursive: true });
});

function environment(more: Record<string, string>) {
  return readConfig({
    BOLD_RELAY_DATABASE_URL: world.config.databaseUrl,
    BOLD_RELAY_BROKER_URL: broker.url,
    BOLD_RELAY_BROKER_USER: ON.username,
    BOLD_RELAY_BROKER_PASSWORD: PASSWORD,
    BOLD_RELAY_BROKER_CLIENT_ID: world.site,
    BOLD_RELAY_PORT: "0",
    BOLD_RELAY_LOG_LEVEL: "silent",
    ...more,
  });
}

const withCertificates = () => ({
  BOLD_RELAY_BROKER_CA_FILE: certificates.ca,
  BOLD_RELAY_BROKER_CERT_FILE: certificates.client.cert,
  BOLD_RELAY_BROKER_KEY_FILE: certificates.client.key,
});

function planFile(): string {
  const file = path.join(folder, "plan.yaml");
  const reach = {
    by: "http",
    url: board.url,
    do: { method: "PUT", path: "/pin/{index}/{value}" },
    mode: { method: "PUT", path: "/pin/{index}/mode/out" },
    is: { path: "/pin/{index}", everyMs: 100 },
    form: { form: "text", words: { on: 1, off: 0 } },
  };
  const { ca, client } = certificates;
  const device = { site: world.site, device: "cellar", ...ON, channels: [{ slug: "one", kind: "relay" }], reach };
  writeFileSync(file, JSON.stringify({ broker: { url: broker.url, ca, ...client }, devices: [device] }));
  return file;
}

describe("a broker behind TLS that asks for a certificate", () => {
  it("is not reached without one, nor by who does not know who signed it", async () => {
    const plain = { ...ON, reconnectPeriod: 0, connectTimeout: 5_000 };
    await expect(connectAsync(broker.url, { ...plain, rejectUnauthorized: true }, false)).rejects.toThrow();
    const service = await startService(
      environment({ BOLD_RELAY_BROKER_CA_FILE: certificates.ca }),
      createLog(process.env.TEST_LOG ?? "silent"),
    );
    world.service = service;
    const { broker: part } = await poll(
      () => world.client.status(),
      (status) => status.broker.trouble !== null && status.broker.trouble !== "not connected so far",
    );
    expect(part).toMatchObject({ up: false, trouble: expect.stringMatching(/certificate|closed|alert/i) });
    await service.stop();
  });

  it("is reached with one, and carries commands to a device that is translated in the same process", async () => {
    const config = environment({ ...withCertificates(), BOLD_RELAY_TRANSLATE: planFile() });
    world.service = await startService(config, createLog(process.env.TEST_LOG ?? "silent"));
    await world.service.linked;
    await untilChannel(world.client, world.address("cellar/one"), (one) => one.device.presence === "online");
    expect(await world.ask("cellar/one", "on")).toMatchObject({
      outcome: "delivered",
      commands: [{ stage: "confirmed" }],
    });
    expect(board.state.contacts.one).toBe("on");
    await world.client.saveInlet(
      {
        slug: "buttons",
        name: "Buttons",
        kind: "topic",
        site: world.site,
        routes: [{ when: { topic: `${world.site}-button` }, do: { target: "cellar/one", action: "{payload}" } }],
      },
      0,
    );
    await poll(
      () => world.client.inlets(),
      (all) => all.some(({ slug, up }) => slug === "buttons" && up === true),
    );
    await world.client.publish({ topic: `${world.site}-button`, payload: "off" });
    await untilChannel(world.client, world.address("cellar/one"), (one) => one.observed?.value === "off");
    // With the service its translators leave, and say so.
    await world.service.stop();
    expect(board.state.contacts.one).toBe("off");
  });

  it("and a plan with a mistake in it stops the start, naming the file and the mistake", async () => {
    const file = path.join(folder, "wrong.yaml");
    writeFileSync(file, "broker: { url: mqtt://127.0.0.1 }\ndevices: []\n");
    const config = environment({ ...withCertificates(), BOLD_RELAY_TRANSLATE: file });
    await expect(startService(config, createLog(process.env.TEST_LOG ?? "silent"))).rejects.toThrow(
      /wrong\.yaml: "devices" must contain/,
    );
  });

  it("needs certificate and key together, and says which file cannot be read", async () => {
    expect(() => environment({ BOLD_RELAY_BROKER_CERT_FILE: certificates.client.cert })).toThrow(/BROKER_KEY_FILE/);
    const config = environment({ BOLD_RELAY_BROKER_CA_FILE: "/nowhere/ca.pem" });
    await expect(startService(config, createLog(process.env.TEST_LOG ?? "silent"))).rejects.toThrow(
      "/nowhere/ca.pem cannot be read (ENOENT)",
    );
  });
});
