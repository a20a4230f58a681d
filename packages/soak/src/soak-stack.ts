/** The house that is soaked: real servers and a real service, each of which can be broken and mended by itself. */
import { randomBytes } from "node:crypto";
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import {
  type Balancer,
  type Broker,
  type Child,
  eventually,
  findPrograms,
  freePort,
  type Line,
  type Postgres,
  SERVER_PROGRAM,
  setUp,
  startBalancer,
  startBroker,
  startChild,
  startLine,
  startPostgres,
} from "@bold-relay/rig";
import { HOSTILE_USER, NEXT_DOOR } from "./hostile.ts";
import { neighbour, profile, siteOf } from "./soak-site.ts";

export const INLET = "soak";
export const USER = "soak";

interface SoakInstance {
  readonly url: string;
  /** Its own ways to the servers. */
  readonly lines: { readonly database: Line; readonly broker: Line };
  child: Child | null;
}

export class SoakStack {
  readonly folder = mkdtempSync(path.join(tmpdir(), "bold-relay-soak-"));
  readonly password = randomBytes(12).toString("hex");
  key = "";
  memberKey = "";
  ownerPassword = "";
  /** Of the inlet next door. */
  neighbourKey = "";
  private readonly programs = findPrograms();
  private readonly ports = { database: 0, broker: 0 };
  private postgres: Postgres | null = null;
  private broker: Broker | null = null;
  private balancer: Balancer | null = null;
  private readonly instances: SoakInstance[] = [];
  private readonly count: number;
  /** The identifiers of what is soaked. */
  readonly sites: readonly string[];
  /** How often an instance of the service was started. */
  starts = 0;

  /**
   * @param count instances of the service, behind one balancer
   * @param sites the identifiers of what is soaked; each has a shard of its own
   */
  constructor(count: number, sites: readonly string[]) {
    this.count = count;
    this.sites = sites;
  }

  /** Any of the instances. */
  get url(): string {
    return this.balancer?.url ?? "";
  }

  get size(): number {
    return this.count;
  }

  get brokerUrl(): string {
    return `mqtt://127.0.0.1:${this.ports.broker}`;
  }

  get databaseUrl(): string {
    return this.postgres?.url("postgres") ?? "";
  }

  async open(): Promise<void> {
    chmodSync(this.folder, 0o755);
    for (const part of ["database", "broker"] as const) this.ports[part] = await freePort();
    for (let index = 0; index < this.count; index += 1)
      this.instances.push({
        url: `http://127.0.0.1:${await freePort()}`,
        child: null,
        lines: {
          database: await startLine(() => this.ports.database),
          broker: await startLine(() => this.ports.broker),
        },
      });
    this.balancer = await startBalancer(this.instances.map(({ url }) => url));
    await this.startDatabase();
    await this.startBroker();
    const file = (name: string, content: object) => {
      const where = path.join(this.folder, name);
      writeFileSync(where, JSON.stringify(content));
      return where;
    };
    const { owner, keys, inlets } = await setUp(this.databaseUrl, {
      profiles: [file("profile.json", profile)],
      sites: [...this.sites.map((slug) => file(`${slug}.json`, siteOf(slug))), file("neighbour.json", neighbour)],
      owner: "Ines",
      keys: [{ member: "Ines", name: "soak" }],
      inlets: [
        { slug: INLET, name: "Soak" },
        { slug: NEXT_DOOR, name: "Next door", site: NEXT_DOOR },
      ],
    });
    [this.key = "", this.neighbourKey = ""] = inlets.map(({ key }) => key);
    this.memberKey = keys[0]?.key ?? "";
    this.ownerPassword = owner?.password ?? "";
    for (const index of this.instances.keys()) await this.startService(index);
  }

  async close(): Promise<void> {
    await this.balancer?.stop();
    for (const { child, lines } of this.instances) {
      await child?.stop();
      await Promise.all([lines.database.stop(), lines.broker.stop()]);
    }
    await this.broker?.stop();
    await this.postgres?.stop();
  }

  /** Removes everything it wrote. */
  forget(): void {
    rmSync(this.folder, { recursive: true, force: true });
  }

  async startDatabase(): Promise<void> {
    const { programs, folder, password, ports } = this;
    const options = { programs, folder: path.join(folder, "database"), port: ports.database, password, fsync: true };
    this.postgres = await startPostgres(options);
  }

  /** SIGKILL leaves it to its recovery at the next start; SIGINT cuts everybody off and ends in order. */
  async stopDatabase(signal: "SIGKILL" | "SIGINT"): Promise<void> {
    this.postgres?.child.kill(signal);
    await this.postgres?.child.ended;
  }

  async startBroker(): Promise<void> {
    const { programs, folder, password, ports } = this;
    const hostile = {
      name: HOSTILE_USER,
      clientId: HOSTILE_USER,
      password,
      topics: [`read ${NEXT_DOOR}/board/+/do`, `write ${NEXT_DOOR}/board/+/is`],
    };
    const users = [{ name: USER, password, topics: "service" as const }, hostile];
    this.broker = await startBroker({ programs, folder: path.join(folder, "broker"), port: ports.broker, users });
  }

  /** With SIGKILL it forgets what it has not written to its disk, and that is all since its start. */
  async stopBroker(signal: "SIGKILL" | "SIGTERM"): Promise<void> {
    this.broker?.child.kill(signal);
    await this.broker?.child.ended;
    if (signal === "SIGKILL") rmSync(path.join(this.folder, "broker", "mosquitto.db"), { force: true });
  }

  async startService(index: number): Promise<void> {
    const instance = this.instances[index];
    if (!instance) return;
    this.starts += 1;
    instance.child = startChild({
      name: "the service",
      command: process.execPath,
      args: [SERVER_PROGRAM, "start"],
      logFile: path.join(this.folder, `service-${index}.log`),
      pidFile: path.join(this.folder, `service-${index}.pid`),
      env: {
        BOLD_RELAY_DATABASE_URL: throughLine(this.databaseUrl, instance.lines.database),
        BOLD_RELAY_BROKER_URL: throughLine(this.brokerUrl, instance.lines.broker),
        BOLD_RELAY_BROKER_USER: USER,
        BOLD_RELAY_BROKER_PASSWORD: this.password,
        BOLD_RELAY_PORT: new URL(instance.url).port,
        BOLD_RELAY_LOG_LEVEL: "warn",
      },
    });
  }

  async stopService(index: number, signal: "SIGKILL" | "SIGTERM"): Promise<void> {
    const { child } = this.instances[index] ?? {};
    child?.kill(signal);
    await child?.ended;
  }

  /** SIGSTOP lets it stand still with everything it has open, SIGCONT goes on. */
  freeze(index: number, signal: "SIGSTOP" | "SIGCONT"): void {
    this.instances[index]?.child?.kill(signal);
  }

  /** The line of one instance to one server: how slow it is, ms. */
  slow(index: number, to: "database" | "broker", delayMs: number): void {
    const line = this.instances[index]?.lines[to];
    if (line) line.delayMs = delayMs;
  }

  /** @throws Error when one of the instances does not get ready */
  async untilReady(): Promise<void> {
    for (const { url } of this.instances) {
      const ask = async () => (await fetch(`${url}/health/ready`).catch(() => null))?.ok === true;
      if (!(await eventually(ask, 60_000))) throw new Error(`${url} does not get ready; see ${this.folder}.`);
    }
  }
}

function throughLine(url: string, { port }: Line): string {
  const through = new URL(url);
  through.port = String(port);
  return through.href;
}
