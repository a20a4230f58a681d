/**
 * Which instance holds the lanes of which shard. Whoever has a lease renews it three times over its length; whoever has not looks
 * for it to run out. Time alone decides nothing: a leader whose lease ran out unnoticed stays the leader until another
 * one takes it, and from then on neither the journal (`hold_lease`) nor the broker (take-over of the client id) lets it
 * write.
 */
import type { Log } from "../platform/log.ts";
import { databaseTrouble } from "../store/database-trouble.ts";
import {
  claimLease,
  findShardLeases,
  type HeldLease,
  type Instance,
  isHeldStill,
  releaseLease,
  renewLease,
  type ShardLease,
  wantLeader,
} from "../store/leases.ts";
import type { Pool } from "../store/pool.ts";
import { clearRestored } from "../store/restored.ts";

/** So long nobody else takes what was handed to an instance, ms. */
const WANTED_MS = 5_000;

export interface LeasesDeps {
  readonly pool: Pool;
  readonly log: Log;
  readonly instance: Instance;
  /** How long it holds without being renewed, ms. */
  readonly leaseMs: number;
}

export class Leases {
  private readonly deps: LeasesDeps;

  constructor(deps: LeasesDeps) {
    this.deps = deps;
  }

  /** How often somebody who waits for the lease looks. */
  get lookEveryMs(): number {
    return Math.max(25, Math.min(250, this.deps.leaseMs / 8));
  }

  /** Takes the lease of a shard; null: somebody else has it. */
  async tryClaim(shard: number): Promise<HeldLease | null> {
    const { pool, instance, leaseMs, log } = this.deps;
    const claimed = await claimLease(pool, shard, instance, leaseMs);
    if (claimed === null) return null;
    log.info({ shard, epoch: claimed.epoch, instance: instance.name }, "this instance leads");
    return this.keep(shard, claimed);
  }

  /** Every shard, and who leads it. */
  all(): Promise<ShardLease[]> {
    return findShardLeases(this.deps.pool);
  }

  /** A shard is to be led by another instance: for a moment nobody else takes it. */
  want(shard: number, name: string): Promise<void> {
    return wantLeader(this.deps.pool, shard, name, WANTED_MS);
  }

  private keep(shard: number, { epoch, restored }: { epoch: number; restored: boolean }): HeldLease {
    const { pool, log, leaseMs } = this.deps;
    let end = () => {};
    const lost = new Promise<void>((resolve) => {
      end = resolve;
    });
    let asking = false;
    let trouble: string | null = null;
    const renew = async () => {
      if (asking) return;
      asking = true;
      try {
        if (!(await renewLease(pool, epoch, leaseMs))) end();
        trouble = null;
      } catch (error) {
        trouble = databaseTrouble(error);
        log.warn({ err: error }, `the lease could not be renewed, it will be tried again: ${trouble}`);
      } finally {
        asking = false;
      }
    };
    const timer = setInterval(() => void renew(), leaseMs / 3);
    void lost.then(() => clearInterval(timer));
    return {
      shard,
      restored,
      epoch,
      lost,
      get trouble() {
        return trouble;
      },
      end,
      isHeldStill: () => isHeldStill(pool, epoch),
      async taken() {
        if (restored) await clearRestored(pool, epoch);
      },
      async release() {
        clearInterval(timer);
        await releaseLease(pool, epoch);
      },
    };
  }
}
