/** A private mosquitto on loopback ports, set up exactly as `deploy/mosquitto` does it for an installation. */
import { chownSync, mkdirSync, readdirSync } from "node:fs";
import path from "node:path";
import { makeBrokerCertificates, setUpBroker } from "../../../deploy/mosquitto/set-up.mjs";
import type { Certificates } from "./certificates.ts";
import { type Child, endLeftover, logTail, startChild } from "./child.ts";
import { type Programs, serverUser } from "./needs.ts";
import { answers, eventually } from "./port.ts";

export interface BrokerUser {
  readonly name: string;
  readonly password: string;
  /** The only client id that it may connect with; left out: any. */
  readonly clientId?: string;
  /** Everything that the service may, or lines of an access list: "read alder-row/finch/+/do". */
  readonly topics: "service" | readonly string[];
}

export interface BrokerOptions {
  readonly programs: Programs;
  readonly folder: string;
  readonly port: number;
  readonly users: readonly BrokerUser[];
  /** A second port for devices, with TLS: there a client id is the user's name. Left out: there is none. */
  readonly devicePort?: number;
  /** With this password the user `admin` may make more users while it runs; left out: nobody may. */
  readonly adminPassword?: string;
  /** Only over TLS, and only to clients with a certificate that is signed by this CA; left out: plain. */
  readonly certificates?: Certificates;
}

/** What a device needs beside its credentials. */
export interface DeviceAccess {
  readonly url: string;
  /** File with the certificate of whoever signed the broker's, PEM; left out: plain MQTT. */
  readonly ca?: string;
}

export interface Broker {
  readonly url: string;
  /** Where devices connect; null: there is no such port. */
  readonly devices: DeviceAccess | null;
  readonly child: Child;
  stop(): Promise<void>;
}

const HOST = "127.0.0.1";

/** Ends the broker of this folder that an earlier, killed run has left behind. */
export function endLeftoverBroker(folder: string): Promise<void> {
  return endLeftover(path.join(folder, "mosquitto.pid"), path.join(folder, "mosquitto.conf"), "SIGTERM");
}

/** @throws Error that says what is wrong and where its log is */
export async function startBroker(options: BrokerOptions): Promise<Broker> {
  const { programs, folder, port, devicePort, users, adminPassword, certificates } = options;
  const runAs = serverUser("mosquitto");
  mkdirSync(folder, { recursive: true });
  const file = (name: string) => path.join(folder, name);
  await endLeftoverBroker(folder);
  const tls = certificates && { ca: certificates.ca, ...certificates.broker, clients: true };
  const deviceTls = devicePort === undefined ? null : makeBrokerCertificates(file("certificates"), HOST);
  const configFile = setUpBroker({
    folder,
    plugin: programs.dynamicSecurity,
    service: { port, ...(tls ? { tls } : {}) },
    ...(devicePort === undefined || !deviceTls ? {} : { devices: { port: devicePort, address: HOST, tls: deviceTls } }),
    users: [
      ...users.map(({ topics, ...user }) => ({ ...user, rights: topics })),
      ...(adminPassword === undefined ? [] : [{ name: "admin", password: adminPassword, rights: "admin" as const }]),
    ],
  });
  if (runAs) {
    chownSync(folder, runAs.uid, runAs.gid);
    for (const name of readdirSync(folder, { recursive: true, encoding: "utf8" }))
      chownSync(file(name), runAs.uid, runAs.gid);
  }
  const logFile = file("mosquitto.log");
  const child = startChild({
    name: "the broker",
    command: programs.mosquitto,
    args: ["-c", configFile],
    logFile,
    pidFile: file("mosquitto.pid"),
    runAs,
  });
  if (!(await eventually(() => answers(port), 20_000, child.hasEnded))) {
    await child.stop();
    throw new Error(`The broker did not start. The end of ${logFile}:\n${logTail(logFile)}`);
  }
  const devices = deviceTls && { url: `mqtts://${HOST}:${devicePort}`, ca: deviceTls.ca };
  const url = `${certificates ? "mqtts" : "mqtt"}://${HOST}:${port}`;
  return { url, devices, child, stop: () => child.stop() };
}
