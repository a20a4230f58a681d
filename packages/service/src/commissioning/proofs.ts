/** The devices that are being proven, one run a device, and the records of those that were. */
import type { Asker } from "@bold-relay/core";
import { RelayError } from "@bold-relay/core";
import { newId } from "../id.ts";
import type { Log } from "../log.ts";
import { type CommissioningRecord, findCommissionings, saveCommissioning } from "../store/commissionings.ts";
import type { Pool } from "../store/pool.ts";
import { Proof, type ProofParts } from "./proof.ts";

const MOST_AT_ONCE = 20;
const RECORDS_SHOWN = 10;

export class Proofs {
  private readonly parts: Omit<ProofParts, "keep">;
  private readonly pool: Pool;
  private readonly log: Log;
  private readonly running = new Map<string, Proof>();
  private writing: Promise<void> = Promise.resolve();

  constructor(parts: Omit<ProofParts, "keep">, pool: Pool, log: Log) {
    this.parts = parts;
    this.pool = pool;
    this.log = log;
  }

  /** Begins anew; a run that stands is ended where it is. */
  start(device: string, by: string): CommissioningRecord {
    this.running.get(device)?.end();
    const standing = [...this.running.values()].filter(({ record }) => record.finishedAt === null);
    if (standing.length >= MOST_AT_ONCE)
      throw new RelayError("service-busy", { why: "Too many devices are being proven at once" });
    const proof = new Proof({ ...this.parts, keep: (record) => this.keep(record) }, device, {
      id: newId(),
      startedBy: by,
    });
    this.running.set(device, proof);
    void proof.begin();
    return proof.record;
  }

  go(device: string, step: string, asker: Asker): CommissioningRecord {
    const proof = this.of(device);
    proof.go(step, asker);
    return proof.record;
  }

  say(device: string, step: string, answer: "yes" | "no" | "turned" | "skip", by: string, note: string | null) {
    const proof = this.of(device);
    proof.say(step, answer, by, note);
    return proof.record;
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
    for (const proof of this.running.values()) proof.end();
    await this.writing;
  }

  private of(device: string): Proof {
    const proof = this.running.get(device);
    if (!proof) throw new RelayError("not-found", { what: `A commissioning of ${device} that is under way` });
    return proof;
  }

  /** One after the other, so that the newest is what stays. */
  private keep(record: CommissioningRecord): void {
    this.writing = this.writing
      .then(() => saveCommissioning(this.pool, record))
      .catch((error: unknown) => this.log.warn({ err: error }, "a commissioning could not be kept"));
  }
}
