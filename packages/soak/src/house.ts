/** The house that is soaked: real servers and a real service, each of which can be broken and mended by itself. */
import { execFile } from "node:child_process";
import { randomBytes } from "node:crypto";
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { promisify } from "node:util";
import {
  type Broker,
  type Child,
  eventually,
  findPrograms,
  freePort,
  type Postgres,
  startBroker,
  startChild,
  startPostgres,
} from "@bold-relay/rig";
import { profile, site } from "./premises.ts";

const SERVICE = fileURLToPath(new URL("../../service/dist/", import.meta.url));
export const INLET = "soak";
export const USER = "soak";

export class House {
  readonly folder = mkdtempSync(path.join(tmpdir(), "bold-relay-soak-"));
  readonly password = randomBytes(12).toString("hex");
  key = "";
  memberKey = "";
  private readonly programs = findPrograms();
  private readonly ports = { database: 0, broker: 0, service: 0 };
  private postgres: Postgres | null = null;
  private broker: Broker | null = null;
  service: Child | null = null;
  /** How often the service was started. */
  starts = 0;

  get url(): string {
    return `http://127.0.0.1:${this.ports.service}`;
  }

  get brokerUrl(): string {
    return `mqtt://127.0.0.1:${this.ports.broker}`;
  }

  get databaseUrl(): string {
    return this.postgres?.url("postgres") ?? "";
  }

  async open(): Promise<void> {
    chmodSync(this.folder, 0o755);
    for (const part of ["database", "broker", "service"] as const) this.ports[part] = await freePort();
    await this.startDatabase();
    await this.startBroker();
    const file = (name: string, content: object) => {
      const where = path.join(this.folder, name);
      writeFileSync(where, JSON.stringify(content));
      return where;
    };
    await this.setUp("profile", file("profile.json", profile));
    await this.setUp("site", file("site.json", site));
    this.key = (await this.setUp("inlet", INLET, "--name", "Soak")).key ?? "";
    await this.setUp("owner", "Ines");
    this.memberKey = (await this.setUp("key", "Ines", "soak")).key ?? "";
    await this.startService();
  }

  async close(): Promise<void> {
    await this.service?.stop();
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
    const users = [{ name: USER, password, topics: ["readwrite #"] }];
    this.broker = await startBroker({ programs, folder: path.join(folder, "broker"), port: ports.broker, users });
  }

  /** With SIGKILL it forgets what it has not written to its disk, and that is all since its start. */
  async stopBroker(signal: "SIGKILL" | "SIGTERM"): Promise<void> {
    this.broker?.child.kill(signal);
    await this.broker?.child.ended;
    if (signal === "SIGKILL") rmSync(path.join(this.folder, "broker", "mosquitto.db"), { force: true });
  }

  async startService(): Promise<void> {
    this.starts += 1;
    this.service = startChild({
      name: "the service",
      command: process.execPath,
      args: [path.join(SERVICE, "main.js")],
      logFile: path.join(this.folder, "service.log"),
      pidFile: path.join(this.folder, "service.pid"),
      env: {
        BOLD_RELAY_DATABASE_URL: this.databaseUrl,
        BOLD_RELAY_BROKER_URL: this.brokerUrl,
        BOLD_RELAY_BROKER_USER: USER,
        BOLD_RELAY_BROKER_PASSWORD: this.password,
        BOLD_RELAY_PORT: String(this.ports.service),
        BOLD_RELAY_LOG_LEVEL: "warn",
      },
    });
  }

  async stopService(signal: "SIGKILL" | "SIGTERM"): Promise<void> {
    this.service?.kill(signal);
    await this.service?.ended;
  }

  /** @throws Error when it does not get ready */
  async untilReady(): Promise<void> {
    const ask = async () => (await fetch(`${this.url}/health/ready`).catch(() => null))?.ok === true;
    if (!(await eventually(ask, 60_000))) throw new Error(`The service does not get ready; see ${this.folder}.`);
  }

  private async setUp(...words: string[]): Promise<Record<string, string>> {
    const env = { ...process.env, BOLD_RELAY_DATABASE_URL: this.databaseUrl };
    const program = path.join(SERVICE, "setup.js");
    const { stdout } = await promisify(execFile)(process.execPath, [program, ...words], { env });
    return JSON.parse(stdout) as Record<string, string>;
  }
}
