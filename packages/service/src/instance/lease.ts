/**
 * Which instance holds the lanes. Whoever has the lease renews it three times over its length; whoever has not looks
 * for it to run out. Time alone decides nothing: a leader whose lease ran out unnoticed stays the leader until another
 * one takes it, and from then on neither the journal (`hold_lease`) nor the broker (take-over of the client id) lets it
 * write.
 */
import type { Log } from "../platform/log.ts";
import { databaseTrouble } from "../store/database-trouble.ts";
import {
  claimLease,
  findLeader,
  type HeldLease,
  type Instance,
  isHeldStill,
  releaseLease,
  renewLease,
} from "../store/leases.ts";
import type { Pool } from "../store/pool.ts";

export interface LeaseDeps {
  readonly pool: Pool;
  readonly log: Log;
  readonly instance: Instance;
  /** How long it holds without being renewed, ms. */
  readonly leaseMs: number;
}

export class Lease {
  private readonly deps: LeaseDeps;

  constructor(deps: LeaseDeps) {
    this.deps = deps;
  }

  /** How often somebody who waits for the lease looks. */
  get lookEveryMs(): number {
    return Math.max(25, Math.min(250, this.deps.leaseMs / 8));
  }

  /** Takes the lease, or says who has it; both null: it is between two leaders just now. */
  async tryClaim(): Promise<{ heldLease: HeldLease | null; leader: Instance | null }> {
    const { pool, instance, leaseMs, log } = this.deps;
    const epoch = await claimLease(pool, instance, leaseMs);
    if (epoch === null) return { heldLease: null, leader: await findLeader(pool) };
    log.info({ epoch, instance: instance.name }, "this instance leads");
    return { heldLease: this.keep(epoch), leader: instance };
  }

  /** Who has it; null: it is between two leaders just now. */
  leader(): Promise<Instance | null> {
    return findLeader(this.deps.pool);
  }

  private keep(epoch: number): HeldLease {
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
      epoch,
      lost,
      get trouble() {
        return trouble;
      },
      end,
      isHeldStill: () => isHeldStill(pool, epoch),
      async release() {
        clearInterval(timer);
        await releaseLease(pool, epoch);
      },
    };
  }
}
