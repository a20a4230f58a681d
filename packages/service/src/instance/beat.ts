/** Tells the others that this instance is there, and how it does: every two seconds, in the database. */
import { randomUUID } from "node:crypto";
import { VERSION } from "@bold-relay/api";
import { isAlive } from "@bold-relay/core";
import type { Log } from "../platform/log.ts";
import { BUILD } from "../platform/version.ts";
import { databaseNow, findInstances, forgetInstance, saveBeat } from "../store/instances.ts";
import type { Instance } from "../store/leases.ts";
import type { Pool } from "../store/pool.ts";

const BEAT_MS = 2_000;

export class Beat {
  private readonly instance: Instance;
  private readonly pool: Pool;
  private readonly log: Log;
  private readonly run = randomUUID();
  private readonly startedAt = Date.now();
  private cpu = process.cpuUsage();
  private beatAt = performance.now();
  private timer: NodeJS.Timeout | null = null;
  private beating: Promise<void> | null = null;

  constructor(instance: Instance, pool: Pool, log: Log) {
    this.instance = instance;
    this.pool = pool;
    this.log = log;
  }

  /** @throws Error when another process uses the name: both would take the lease from each other */
  async start(): Promise<void> {
    const { name, address } = this.instance;
    const other = (await findInstances(this.pool)).find((one) => one.name === name);
    if (other && other.address !== address && isAlive(other))
      throw new Error(
        `Another instance runs under the name ${name} at ${other.address}. Give this one its own: BOLD_RELAY_INSTANCE.`,
      );
    await this.beat();
    this.timer = setInterval(() => {
      this.beating ??= this.beat().finally(() => {
        this.beating = null;
      });
    }, BEAT_MS);
  }

  async stop(): Promise<void> {
    if (this.timer) clearInterval(this.timer);
    await this.beating;
    await forgetInstance(this.pool, this.instance.name, this.run).catch((error: unknown) =>
      this.log.debug({ err: error }, "the instance stays listed"),
    );
  }

  private async beat(): Promise<void> {
    try {
      const asked = Date.now();
      const now = await databaseNow(this.pool);
      const aheadMs = (asked + Date.now()) / 2 - now;
      const { startedAt, run } = this;
      const own = { ...this.instance, run, version: VERSION, build: BUILD, startedAt };
      await saveBeat(this.pool, { ...own, aheadMs, residentMb: residentMb(), cpu: this.cpuShare() });
    } catch (error) {
      this.log.debug({ err: error }, "this instance could not be listed");
    }
  }

  private cpuShare(): number {
    const spent = process.cpuUsage(this.cpu);
    const ms = performance.now() - this.beatAt;
    this.cpu = process.cpuUsage();
    this.beatAt = performance.now();
    return ms <= 0 ? 0 : (spent.user + spent.system) / 1000 / ms;
  }
}

function residentMb(): number {
  return Math.round(process.memoryUsage.rss() / 1_000_000);
}
