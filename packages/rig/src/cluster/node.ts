/** One machine of the cluster: its parts, each of which can be stopped, killed and started by itself. */
import { chmodSync, chownSync, existsSync, mkdirSync, readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { type ClusterSecrets, hasBroker, setUpNode } from "../../../../deploy/cluster/set-up.mjs";
import type { BrokerSetUp } from "../../../../deploy/mosquitto/set-up.mjs";
import { type Child, startChild } from "../child.ts";
import { type Programs, type RunAs, serverUser } from "../needs.ts";
import { SERVER_PROGRAM } from "../setup.ts";
import { type ClusterNetwork, INTERFACE, NETWORK, type NetworkNode, SHARED_ADDRESS, tryKill } from "./network.ts";

/** In the order of their start. */
const PARTS = ["etcd", "database", "broker", "haproxy", "keepalived", "service"] as const;
export type Part = (typeof PARTS)[number];

export interface ClusterNodeOptions {
  readonly node: NetworkNode;
  readonly nodes: readonly NetworkNode[];
  readonly network: ClusterNetwork;
  readonly programs: Programs;
  /** Made; holds its files, data and logs. */
  readonly folder: string;
  readonly secrets: ClusterSecrets;
  readonly brokerUsers: BrokerSetUp["users"];
  /** Beside what its file has. */
  readonly serviceEnv: Readonly<Record<string, string>>;
  /** The server program of the version that it begins with; left out: this one. */
  readonly olderProgram?: string;
}

/** Settings that the version before does not know. */
const NEW_SETTINGS = ["BOLD_RELAY_BROKER_ADMIN_URLS"];

export class ClusterNode {
  readonly name: string;
  readonly address: string;
  readonly folder: string;
  private readonly options: ClusterNodeOptions;
  private readonly children = new Map<Part, Child>();
  private olderProgram: string | undefined;

  constructor(options: ClusterNodeOptions) {
    this.options = options;
    this.name = options.node.name;
    this.address = options.node.address;
    this.folder = options.folder;
    this.olderProgram = options.olderProgram;
  }

  /** From its next start on the service is of this version. */
  upgrade(): void {
    this.olderProgram = undefined;
  }

  get hasBroker(): boolean {
    return hasBroker({ node: this.name, nodes: this.options.nodes });
  }

  /** Writes its files, as `deploy/cluster` does on a machine of its own. */
  setUp(): void {
    const { folder, nodes, programs, secrets, brokerUsers } = this.options;
    mkdirSync(folder, { recursive: true });
    chmodSync(folder, 0o755);
    const data = path.join(folder, "data");
    mkdirSync(data, { recursive: true, mode: 0o755 });
    setUpNode({
      folder,
      node: this.name,
      nodes,
      address: SHARED_ADDRESS,
      interface: INTERFACE,
      network: NETWORK,
      data,
      postgres: path.dirname(programs.postgres),
      plugin: programs.dynamicSecurity,
      secrets,
      users: brokerUsers,
      socket: path.join(folder, "haproxy.sock"),
    });
    chmodSync(folder, 0o755);
    const files = ["patroni.yml", "etcd.yml"].map((name) => path.join(folder, name));
    own([data, ...files], serverUser("postgres"));
    const broker = path.join(folder, "broker");
    if (this.hasBroker)
      own([broker, ...readdirSync(broker).map((name) => path.join(broker, name))], serverUser("mosquitto"));
  }

  start(part: Part): void {
    if (part === "broker" && !this.hasBroker) return;
    if (this.children.get(part)?.hasEnded() === false) return;
    const { command, user = null, env = {}, stopSignal = "SIGTERM" } = this.commandOf(part);
    const as = user && ["setpriv", `--reuid=${user}`, `--regid=${user}`, "--clear-groups", "--"];
    const [first = "ip", ...rest] = [...this.options.network.on(this.name), ...(as ?? []), ...command];
    const child = startChild({
      name: `${part} on ${this.name}`,
      command: first,
      args: rest,
      logFile: this.logOf(part),
      pidFile: path.join(this.folder, `${part}.pid`),
      env,
      stopSignal,
    });
    this.children.set(part, child);
  }

  startAll(): void {
    for (const part of PARTS) this.start(part);
  }

  logOf(part: Part): string {
    return path.join(this.folder, `${part}.log`);
  }

  /** Kills a part at once. Of the database, PostgreSQL alone: Patroni goes on and sees it. */
  async kill(part: Part): Promise<void> {
    if (part === "database") return this.killPostgres();
    this.signal(part, "SIGKILL");
    await this.children.get(part)?.ended;
  }

  signal(part: Part, signal: NodeJS.Signals): void {
    this.children.get(part)?.kill(signal);
  }

  async stop(part: Part): Promise<void> {
    await this.children.get(part)?.stop();
  }

  /** As when its power fails: nothing of it says goodbye. */
  async powerOff(): Promise<void> {
    this.options.network.unplug(this.name);
    for (const pid of this.options.network.processesOn(this.name)) tryKill(pid);
    for (const child of this.children.values()) await child.ended;
  }

  powerOn(): void {
    this.options.network.plug(this.name);
    this.startAll();
  }

  async close(): Promise<void> {
    for (const part of [...PARTS].reverse()) if (part !== "database") await this.stop(part);
    await this.stop("database");
    for (const pid of this.options.network.processesOn(this.name)) tryKill(pid);
  }

  private killPostgres(): void {
    const file = path.join(this.folder, "data", "postgresql", "postmaster.pid");
    if (!existsSync(file)) return;
    tryKill(Number(readFileSync(file, "utf8").split("\n")[0]));
  }

  private commandOf(part: Part): {
    readonly command: readonly string[];
    readonly user?: string;
    readonly env?: Record<string, string>;
    readonly stopSignal?: NodeJS.Signals;
  } {
    const file = (name: string) => path.join(this.folder, name);
    switch (part) {
      case "etcd":
        return { command: ["etcd", "--config-file", file("etcd.yml")], user: "postgres" };
      case "database":
        return { command: ["patroni", file("patroni.yml")], user: "postgres", env: { LC_ALL: "C.UTF-8" } };
      case "broker":
        return {
          command: [this.options.programs.mosquitto, "-c", file("broker/mosquitto.conf")],
          user: "mosquitto",
        };
      case "haproxy":
        return { command: ["haproxy", "-f", file("haproxy.cfg"), "-db"], stopSignal: "SIGINT" };
      case "keepalived":
        return {
          command: [
            ...["keepalived", "--dont-fork", "--log-console", "--vrrp", "--use-file", file("keepalived.conf")],
            ...["--pid", file("keepalived.main.pid"), "--vrrp_pid", file("keepalived.vrrp.pid")],
          ],
        };
      case "service":
        return this.serviceCommand(settingsIn(file("bold-relay.env")));
    }
  }

  private serviceCommand(settings: Record<string, string>) {
    const { olderProgram } = this;
    const env = { ...settings, ...this.options.serviceEnv };
    if (olderProgram !== undefined) for (const name of NEW_SETTINGS) delete env[name];
    return { command: [process.execPath, olderProgram ?? SERVER_PROGRAM, "start"], env };
  }
}

/** The lines of an environment file. */
function settingsIn(file: string): Record<string, string> {
  const lines = readFileSync(file, "utf8").split("\n");
  return Object.fromEntries(
    lines
      .filter((line) => /^[A-Z_]+=/.test(line))
      .map((line) => [line.slice(0, line.indexOf("=")), line.slice(line.indexOf("=") + 1)]),
  );
}

function own(files: readonly string[], user: RunAs | null): void {
  if (user) for (const file of files) chownSync(file, user.uid, user.gid);
}
