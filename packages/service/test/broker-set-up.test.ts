/** The broker as an installation sets it up: TLS for devices, nothing without a user, nothing that is not granted, no secret lying open. */
import { execFileSync } from "node:child_process";
import { chownSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { connect as connectTls } from "node:tls";
import { fileURLToPath } from "node:url";
import { type Child, eventually, findPrograms, freePort, serverUser, startChild } from "@bold-relay/rig";
import { connectAsync } from "mqtt";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createWorld, type World } from "./support/world.ts";

const SET_UP = fileURLToPath(new URL("../../../deploy/mosquitto/set-up.mjs", import.meta.url));

let folder: string;
let port: number;
let devicePort: number;
let broker: Child;
let world: World;
let env: Record<string, string>;

function setUp(): void {
  const programs = findPrograms();
  const ports = ["--port", String(port), "--device-port", String(devicePort)];
  execFileSync(process.execPath, [
    SET_UP,
    folder,
    "--host",
    "127.0.0.1",
    ...ports,
    "--plugin",
    programs.dynamicSecurity,
  ]);
}

/** The broker runs as a user of its own, and reads what is its. */
function handOver(where: string): void {
  const runAs = serverUser("mosquitto");
  if (!runAs) return;
  chownSync(where, runAs.uid, runAs.gid);
  if (!statSync(where).isDirectory()) return;
  for (const name of readdirSync(where)) handOver(path.join(where, name));
}

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), "bold-relay-broker-"));
  [port, devicePort] = [await freePort(), await freePort()];
  setUp();
  env = Object.fromEntries(
    readFileSync(path.join(folder, "bold-relay.env"), "utf8")
      .trim()
      .split("\n")
      .map((line) => line.split(/=(.*)/s).slice(0, 2) as [string, string]),
  );
  handOver(folder);
  broker = startChild({
    name: "the broker",
    command: findPrograms().mosquitto,
    args: ["-c", path.join(folder, "mosquitto.conf")],
    logFile: path.join(folder, "mosquitto.log"),
    pidFile: path.join(folder, "mosquitto.pid"),
    runAs: serverUser("mosquitto"),
  });
  world = await createWorld({ environment: env });
});
afterAll(async () => {
  await world.stop();
  await broker.stop();
  rmSync(folder, { recursive: true, force: true });
});

const ca = () => readFileSync(path.join(folder, "certificates/ca.pem"));
const device = (shown: object, clientId = "whatever") =>
  connectAsync(`mqtts://127.0.0.1:${devicePort}`, {
    ...shown,
    clientId,
    ca: ca(),
    protocolVersion: 5,
    reconnectPeriod: 0,
    connectTimeout: 5_000,
  });

describe("a broker that is set up", () => {
  it("serves the service, which makes a user for a device that then connects over TLS", async () => {
    expect((await world.client.status()).broker.up).toBe(true);
    const made = await world.client.makeCredentials(world.address("wren"));
    const client = await device(made);
    await client.publishAsync(`${world.site}/wren/here`, '{"up":true,"boot":"1"}', { qos: 1 });
    await expect(client.publishAsync(`${world.site}/finch/here`, "{}", { qos: 1 })).rejects.toThrow();
    await client.endAsync(true);
  });

  it("lets nobody in without a user, with a wrong password, without TLS, or with an old one", async () => {
    await expect(device({})).rejects.toThrow();
    await expect(device({ username: "bold-relay", password: "a guess" })).rejects.toThrow();
    await expect(
      connectAsync(`mqtt://127.0.0.1:${devicePort}`, { reconnectPeriod: 0, connectTimeout: 2_000 }),
    ).rejects.toThrow();
    const old = await new Promise<string>((resolve) => {
      const socket = connectTls({
        port: devicePort,
        host: "127.0.0.1",
        ca: ca(),
        minVersion: "TLSv1",
        maxVersion: "TLSv1.1",
      });
      socket.on("secureConnect", () => resolve("let in"));
      socket.on("error", () => resolve("refused"));
    });
    expect(old).toBe("refused");
  });

  it("lets who makes users do nothing else, and the service make none", async () => {
    const access = (who: "" | "_ADMIN") => ({
      username: env[`BOLD_RELAY_BROKER${who}_USER`] ?? "",
      password: env[`BOLD_RELAY_BROKER${who}_PASSWORD`] ?? "",
      protocolVersion: 5 as const,
      reconnectPeriod: 0,
    });
    const admin = await connectAsync(`mqtt://127.0.0.1:${port}`, access("_ADMIN"));
    await expect(admin.publishAsync(`${world.site}/wren/porch/do`, "{}", { qos: 1 })).rejects.toThrow();
    const service = await connectAsync(`mqtt://127.0.0.1:${port}`, access(""));
    await expect(service.publishAsync("$CONTROL/dynamic-security/v1", "{}", { qos: 1 })).rejects.toThrow();
    await Promise.all([admin.endAsync(true), service.endAsync(true)]);
  });

  it("has no secret that others on the machine could read, and none in an argument", () => {
    for (const name of [
      "bold-relay.env",
      "dynamic-security.json",
      "mosquitto.conf",
      "certificates/ca.key",
      "certificates/broker.key",
    ])
      expect([name, (statSync(path.join(folder, name)).mode & 0o077).toString(8)]).toEqual([name, "0"]);
    expect((statSync(folder).mode & 0o077).toString(8)).toBe("0");
    const arguments_ = readFileSync(`/proc/${broker.pid}/cmdline`, "utf8");
    for (const secret of [env.BOLD_RELAY_BROKER_PASSWORD, env.BOLD_RELAY_BROKER_ADMIN_PASSWORD])
      expect(arguments_).not.toContain(secret);
  });

  it("stays as it is when it is set up again", async () => {
    const before = readFileSync(path.join(folder, "bold-relay.env"), "utf8");
    setUp();
    handOver(folder);
    expect(readFileSync(path.join(folder, "bold-relay.env"), "utf8")).toBe(before);
    const users = JSON.parse(readFileSync(path.join(folder, "dynamic-security.json"), "utf8")).clients as {
      username: string;
    }[];
    expect(users.map(({ username }) => username)).toEqual(expect.arrayContaining(["bold-relay", "bold-relay-admin"]));
    expect(await eventually(async () => (await world.client.status()).broker.up, 5_000)).toBe(true);
  });
});
