/** A private mosquitto with passwords and per-user permissions, on a loopback port. */
import { execFileSync } from "node:child_process";
import { chownSync, existsSync, mkdirSync, readdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import type { Certificates } from "./certificates.ts";
import { type Child, endLeftover, logTail, startChild } from "./child.ts";
import { type Programs, serverUser } from "./needs.ts";
import { answers, eventually } from "./port.ts";

export interface BrokerUser {
  readonly name: string;
  readonly password: string;
  /** Lines of an access list: "read alder-row/finch/+/do", "readwrite #". */
  readonly topics: readonly string[];
}

export interface BrokerOptions {
  readonly programs: Programs;
  readonly folder: string;
  readonly port: number;
  readonly users: readonly BrokerUser[];
  /** With this password the user `admin` may make more users while it runs; left out: nobody may. */
  readonly adminPassword?: string;
  /** Only over TLS, and only to clients with a certificate that is signed by this CA; left out: plain. */
  readonly certificates?: Certificates;
}

export interface Broker {
  readonly url: string;
  readonly child: Child;
  stop(): Promise<void>;
}

/** Ends the broker of this folder that an earlier, killed run has left behind. */
export function endLeftoverBroker(folder: string): Promise<void> {
  return endLeftover(path.join(folder, "mosquitto.pid"), path.join(folder, "mosquitto.conf"), "SIGTERM");
}

/** @throws Error that says what is wrong and where its log is */
export async function startBroker(options: BrokerOptions): Promise<Broker> {
  const { programs, folder, port, users, adminPassword, certificates } = options;
  const runAs = serverUser("mosquitto");
  mkdirSync(folder, { recursive: true });
  const file = (name: string) => path.join(folder, name);
  const configFile = file("mosquitto.conf");
  await endLeftoverBroker(folder);
  writeFileSync(file("passwords"), users.map((user) => `${user.name}:${user.password}\n`).join(""), { mode: 0o600 });
  execFileSync(programs.mosquittoPasswd, ["-U", file("passwords")]);
  writeFileSync(file("permissions"), users.map(permissions).join("\n"), { mode: 0o600 });
  const dynamic = adminPassword === undefined ? [] : dynamicUsers(programs, file("dynamic-users.json"), adminPassword);
  const tls = certificates === undefined ? [] : tlsLines(certificates);
  writeFileSync(configFile, [...config(port, file, tls), ...dynamic, ""].join("\n"));
  if (runAs) {
    chownSync(folder, runAs.uid, runAs.gid);
    for (const name of readdirSync(folder)) chownSync(file(name), runAs.uid, runAs.gid);
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
  return { url: `${certificates ? "mqtts" : "mqtt"}://127.0.0.1:${port}`, child, stop: () => child.stop() };
}

function permissions({ name, topics }: BrokerUser): string {
  return `user ${name}\n${topics.map((topic) => `topic ${topic}\n`).join("")}`;
}

/** Users that the plugin does not know are those of the files: both count. What was made stays over a restart. */
function dynamicUsers({ mosquittoCtrl, dynamicSecurity }: Programs, file: string, password: string): string[] {
  if (!existsSync(file)) execFileSync(mosquittoCtrl, ["dynsec", "init", file, "admin", password], { stdio: "ignore" });
  return [`plugin ${dynamicSecurity}`, `plugin_opt_config_file ${file}`];
}

function tlsLines({ ca, broker }: Certificates): string[] {
  return [`cafile ${ca}`, `certfile ${broker.cert}`, `keyfile ${broker.key}`, "require_certificate true"];
}

/** @param tls of the listener */
function config(port: number, file: (name: string) => string, tls: readonly string[]): string[] {
  return [
    `listener ${port} 127.0.0.1`,
    ...tls,
    "allow_anonymous false",
    `password_file ${file("passwords")}`,
    `acl_file ${file("permissions")}`,
    "persistence true",
    `persistence_location ${file("")}`,
    "autosave_interval 60",
    // Round trips of 1 ms instead of 20: Nagle's algorithm off on the broker's side too.
    "set_tcp_nodelay true",
    "max_inflight_messages 1000",
    "max_queued_messages 100000",
    "log_dest stderr",
    "log_type warning",
    "log_type error",
    "log_type notice",
  ];
}
