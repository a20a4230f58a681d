/** Tells the others that this instance is there, and how it does: every two seconds, in the database. */
import { VERSION } from "@bold-relay/api";
import type { Log } from "../platform/log.ts";
import { BUILD } from "../platform/version.ts";
import { databaseNow, findInstances, forgetInstance, type InstanceRecord, saveBeat } from "../store/instances.ts";
import type { Instance } from "../store/leases.ts";
import type { Pool } from "../store/pool.ts";

const BEAT_MS = 2_000;

export interface BeatDeps {
  readonly instance: Instance;
  /** Of this process. */
  readonly run: string;
  readonly secretsMark: string | null;
  readonly pool: Pool;
  readonly log: Log;
  /** Whether this instance reaches the broker, asked before each beat; null: it does not look. @param all as they were told last */
  readonly brokerReached: (all: readonly InstanceRecord[]) => Promise<boolean | null>;
  /** Told after each beat of all that run, this one among them. */
  readonly onBeat: (all: readonly InstanceRecord[]) => void;
}

export class Beat {
  private readonly deps: BeatDeps;
  private readonly startedAt = Date.now();
  private known: readonly InstanceRecord[] = [];
  private cpu = process.cpuUsage();
  private beatAt = performance.now();
  private timer: NodeJS.Timeout | null = null;
  private beating: Promise<void> | null = null;

  constructor(deps: BeatDeps) {
    this.deps = deps;
  }

  /** Those that run, as they were told last. */
  get all(): readonly InstanceRecord[] {
    return this.known;
  }

  async start(): Promise<void> {
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
    const { pool, instance, log } = this.deps;
    await forgetInstance(pool, instance.name, this.deps.run).catch((error: unknown) =>
      log.debug({ err: error }, "the instance stays listed"),
    );
  }

  private async beat(): Promise<void> {
    const { instance, run, secretsMark, pool, log, brokerReached, onBeat } = this.deps;
    try {
      const reached = await brokerReached(this.known);
      const asked = Date.now();
      const now = await databaseNow(pool);
      const aheadMs = (asked + Date.now()) / 2 - now;
      const { startedAt } = this;
      const own = { ...instance, run, version: VERSION, build: BUILD, startedAt, brokerReached: reached, secretsMark };
      await saveBeat(pool, { ...own, aheadMs, residentMb: residentMb(), cpu: this.cpuShare() });
      this.known = await findInstances(pool);
      onBeat(this.known);
    } catch (error) {
      log.debug({ err: error }, "this instance could not be listed");
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
