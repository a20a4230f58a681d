/** The reference set-up of deploy/cluster on one machine: three nodes, each in a network namespace, that lose any one of them. */
import { chmodSync, existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { newSecrets, PORTS } from "../../../../deploy/cluster/set-up.mjs";
import type { BrokerSetUp } from "../../../../deploy/mosquitto/set-up.mjs";
import { logTail } from "../child.ts";
import { ensurePackages, findPrograms } from "../needs.ts";
import { eventually } from "../port.ts";
import { createServiceDatabase } from "../postgres.ts";
import { type MadeSecrets, type SetupPlan, setUp } from "../setup.ts";
import { ClusterNetwork, NODES, SHARED_ADDRESS } from "./network.ts";
import { ClusterNode } from "./node.ts";

interface ClusterStackOptions {
  readonly say: (line: string) => void;
  /** Of both brokers, beside the service's. */
  readonly brokerUsers: BrokerSetUp["users"];
  /** What the database is set up with, once. */
  readonly plan: SetupPlan;
  readonly serviceEnv?: Readonly<Record<string, string>>;
  /** The server program of the version that all instances begin with; left out: this one. */
  readonly olderProgram?: string;
}

/** A member as Patroni lists it. */
interface Member {
  readonly name: string;
  readonly host: string;
  readonly role: string;
  readonly state: string;
}

const DATABASE = "bold_relay";
const [SHARED] = SHARED_ADDRESS.split("/") as [string];

export class ClusterStack {
  readonly folder = mkdtempSync(path.join(tmpdir(), "bold-relay-cluster-"));
  readonly network = new ClusterNetwork();
  readonly secrets = newSecrets();
  readonly url = `http://${SHARED}:${PORTS.web}`;
  readonly brokerUrl = `mqtt://${SHARED}:${PORTS.broker}`;
  readonly sharedAddress = SHARED;
  readonly nodes: readonly ClusterNode[];
  private readonly options: ClusterStackOptions;

  constructor(options: ClusterStackOptions) {
    this.options = options;
    ensurePackages(
      ["postgresql", "mosquitto", "patroni", "etcd-server", "haproxy", "keepalived", "iproute2"],
      options.say,
    );
    const programs = findPrograms();
    const { network, secrets, folder } = this;
    this.nodes = NODES.map(
      (node) =>
        new ClusterNode({
          ...{ node, nodes: NODES, network, programs, secrets },
          folder: path.join(folder, node.name),
          brokerUsers: options.brokerUsers,
          serviceEnv: options.serviceEnv ?? {},
          ...(options.olderProgram === undefined ? {} : { olderProgram: options.olderProgram }),
        }),
    );
  }

  /** @returns what was made and is shown only now */
  async open(): Promise<MadeSecrets> {
    const { say, plan, olderProgram } = this.options;
    // The servers run as users of their own.
    chmodSync(this.folder, 0o755);
    this.network.open();
    for (const node of this.nodes) node.setUp();
    say("Starting etcd and Patroni on three nodes");
    for (const node of this.nodes) node.start("etcd");
    for (const node of this.nodes) node.start("database");
    await this.require("a primary with two standbys", async () => (await this.standbys()).length === 2, "database");
    say("Starting HAProxy, keepalived and two brokers");
    for (const node of this.nodes) for (const part of ["broker", "haproxy", "keepalived"] as const) node.start(part);
    await this.require("the shared address", async () => this.network.holderOf(SHARED) !== null, "keepalived");
    say("Making the database");
    const server = await this.primaryUrl("postgres", this.secrets.superuser, "postgres");
    await createServiceDatabase(findPrograms(), server, DATABASE, this.secrets.database);
    const made = await setUp(await this.databaseUrl(), plan, false, olderProgram);
    say("Starting three instances of the service");
    for (const node of this.nodes) node.start("service");
    await this.untilReady();
    return made;
  }

  async close(): Promise<void> {
    await Promise.all(this.nodes.map((node) => node.close()));
    this.network.close();
  }

  /** Removes everything it wrote. */
  forget(): void {
    rmSync(this.folder, { recursive: true, force: true });
  }

  node(name: string): ClusterNode {
    const found = this.nodes.find((one) => one.name === name);
    if (!found) throw new Error(`There is no node ${name}.`);
    return found;
  }

  /** As the service's own role, at the primary of now. @throws Error when there is none */
  databaseUrl(): Promise<string> {
    return this.primaryUrl("bold_relay", this.secrets.database);
  }

  /** The node whose database may be written; null: there is none just now. */
  async primary(): Promise<string | null> {
    return (await this.members()).find(({ role, state }) => role === "leader" && state === "running")?.name ?? null;
  }

  /** The node without which no commit counts; null: there is none just now. */
  async syncStandby(): Promise<string | null> {
    return (await this.members()).find(({ role }) => role === "sync_standby")?.name ?? null;
  }

  /** Nodes whose database follows the primary. */
  async standbys(): Promise<string[]> {
    const following = (await this.members()).filter(
      ({ role, state }) => role !== "leader" && /^(running|streaming)$/.test(state),
    );
    return following.map(({ name }) => name);
  }

  /** Asks Patroni to make another node the primary, without a failure. */
  async switchOver(from: string, to: string): Promise<void> {
    const { address } = this.node(from);
    const word = Buffer.from(`patroni:${this.secrets.patroni}`).toString("base64");
    const response = await fetch(`http://${address}:${PORTS.patroni}/switchover`, {
      method: "POST",
      headers: { authorization: `Basic ${word}`, "content-type": "application/json" },
      body: JSON.stringify({ leader: from, candidate: to }),
      signal: AbortSignal.timeout(60_000),
    });
    if (!response.ok) throw new Error(`Patroni did not switch over: ${await response.text()}`);
  }

  /** Who has the shared address. */
  get addressHolder(): string | null {
    return this.network.holderOf(SHARED);
  }

  /** The node whose broker the clients are at, by HAProxy of the address's holder; null: unknown. */
  async brokerInUse(): Promise<string | null> {
    for (const node of this.nodes.filter(({ hasBroker }) => hasBroker)) {
      const established = this.network.connectionsTo(node.name, PORTS.ownBroker);
      if (established > 3) return node.name;
    }
    return null;
  }

  /** @throws Error when an instance or the way to them does not get ready */
  async untilReady(): Promise<void> {
    for (const { name, address } of this.nodes)
      await this.require(`the instance on ${name}`, () => isOk(`http://${address}:${PORTS.instance}/health/ready`));
    await this.require("the shared address", () => isOk(`${this.url}/health/ready`));
  }

  /** Until every part of it is as it was: three databases, three instances, one address. */
  async untilWhole(): Promise<void> {
    await this.require(
      "a primary with two standbys, one of them synchronous",
      async () => (await this.standbys()).length === 2 && (await this.syncStandby()) !== null,
      "database",
    );
    await this.untilReady();
  }

  private async require(what: string, isSo: () => Promise<boolean>, part?: "database" | "keepalived"): Promise<void> {
    if (await eventually(isSo, 120_000)) return;
    const log = part && this.nodes[0]?.logOf(part);
    const tail = log && existsSync(log) ? `\nThe end of ${log}:\n${logTail(log)}` : "";
    throw new Error(`The cluster does not get ${what}. Its logs are in ${this.folder}.${tail}`);
  }

  private async primaryUrl(user: string, password: string, database = DATABASE): Promise<string> {
    const primary = await this.primary();
    if (primary === null) throw new Error("No database is the primary just now.");
    const { address } = this.node(primary);
    return `postgresql://${user}:${encodeURIComponent(password)}@${address}:${PORTS.database}/${database}`;
  }

  private async members(): Promise<readonly Member[]> {
    const told = await Promise.all(
      this.nodes.map(({ address }) =>
        getJson<{ members?: readonly Member[] }>(`http://${address}:${PORTS.patroni}/cluster`),
      ),
    );
    const views = told.flatMap((one) => (one?.members ? [one.members] : []));
    const leaderOf = (members: readonly Member[]) => members.find(({ role }) => role === "leader")?.name;
    // A node that was cut off may still believe what was so before.
    const isAgreed = (view: readonly Member[]) =>
      views.filter((other) => leaderOf(other) === leaderOf(view)).length * 2 > this.nodes.length;
    return views.find((view) => leaderOf(view) !== undefined && isAgreed(view)) ?? [];
  }
}

async function getJson<Body>(url: string): Promise<Body | null> {
  try {
    const response = await fetch(url, { signal: AbortSignal.timeout(1_500) });
    return (await response.json()) as Body;
  } catch {
    return null;
  }
}

async function isOk(url: string): Promise<boolean> {
  try {
    return (await fetch(url, { signal: AbortSignal.timeout(1_500) })).ok;
  } catch {
    return false;
  }
}
