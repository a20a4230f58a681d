/** The devices that are being proven, one run a device, and the records of those that were. */
import type { Asker } from "@bold-relay/core";
import { RelayError } from "@bold-relay/core";
import { newId } from "../platform/id.ts";
import type { Log } from "../platform/log.ts";
import { type CommissioningRecord, findCommissionings, saveCommissioning } from "../store/commissionings.ts";
import type { Pool } from "../store/pool.ts";
import { CommissioningRun, type CommissioningRunDeps } from "./run.ts";

const MOST_AT_ONCE = 20;
const RECORDS_SHOWN = 10;

export class CommissioningRuns {
  private readonly deps: Omit<CommissioningRunDeps, "keep">;
  private readonly pool: Pool;
  private readonly log: Log;
  private readonly running = new Map<string, CommissioningRun>();
  private writing: Promise<void> = Promise.resolve();

  constructor(deps: Omit<CommissioningRunDeps, "keep">, pool: Pool, log: Log) {
    this.deps = deps;
    this.pool = pool;
    this.log = log;
  }

  /** Begins anew; a run that stands is ended where it is. */
  start(device: string, by: string): CommissioningRecord {
    this.running.get(device)?.end();
    const standing = [...this.running.values()].filter(({ record }) => record.finishedAt === null);
    if (standing.length >= MOST_AT_ONCE)
      throw new RelayError("service-busy", { why: "Too many devices are being proven at once" });
    const run = new CommissioningRun({ ...this.deps, keep: (record) => this.keep(record) }, device, {
      id: newId(),
      startedBy: by,
    });
    this.running.set(device, run);
    void run.begin();
    return run.record;
  }

  go(device: string, step: string, asker: Asker): CommissioningRecord {
    const run = this.of(device);
    run.go(step, asker);
    return run.record;
  }

  say(device: string, step: string, answer: "yes" | "no" | "turned" | "skip", by: string, note: string | null) {
    const run = this.of(device);
    run.say(step, answer, by, note);
    return run.record;
  }

  /** The run that stands or the last one, with those before it, newest first. */
  async records(device: string, deviceId: number): Promise<CommissioningRecord[]> {
    const kept = await findCommissionings(this.pool, deviceId, RECORDS_SHOWN);
    const current = this.running.get(device)?.record;
    return current ? [current, ...kept.filter(({ id }) => id !== current.id)] : kept;
  }

  /** Whether a run is this service's own, or was when it ended. */
  runs({ id }: Pick<CommissioningRecord, "id">): boolean {
    return [...this.running.values()].some(({ record }) => record.id === id);
  }

  async stop(): Promise<void> {
    for (const run of this.running.values()) run.end();
    await this.writing;
  }

  private of(device: string): CommissioningRun {
    const run = this.running.get(device);
    if (!run) throw new RelayError("not-found", { what: `A commissioning of ${device} that is under way` });
    return run;
  }

  /** One after the other, so that the newest is what stays. */
  private keep(record: CommissioningRecord): void {
    this.writing = this.writing
      .then(() => saveCommissioning(this.pool, record))
      .catch((error: unknown) => this.log.warn({ err: error }, "a commissioning could not be kept"));
  }
}
