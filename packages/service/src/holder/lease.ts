/**
 * Which instance holds the lanes. Whoever has the lease renews it three times over its length; whoever has not looks
 * for it to run out. Time alone decides nothing: a holder whose lease ran out unnoticed stays the holder until another
 * one takes it, and from then on neither the journal (`hold_lease`) nor the broker (take-over of the client id) lets it
 * write.
 */
import type { Log } from "../log.ts";
import { databaseTrouble } from "../store/database-trouble.ts";
import { claimLease, findHolder, type Instance, isHeldStill, releaseLease, renewLease } from "../store/leases.ts";
import type { Pool } from "../store/pool.ts";

export interface LeaseParts {
  readonly pool: Pool;
  readonly log: Log;
  readonly instance: Instance;
  /** How long it holds without being renewed, ms. */
  readonly leaseMs: number;
}

/** The lease, held. */
export interface Tenure {
  /** Proves it to the journal. */
  readonly epoch: number;
  /** Resolves when another instance has taken over. */
  readonly lost: Promise<void>;
  /** Why it could not be renewed the last time; null when it was. An idle service learns by this that nothing can be written. */
  readonly trouble: string | null;
  /** Somebody was told by the journal that it is over. */
  end(): void;
  /** Asks the journal. @throws when it does not answer */
  isHeldStill(): Promise<boolean>;
  /** Lets the next instance take over at once. */
  release(): Promise<void>;
}

export class Lease {
  private readonly parts: LeaseParts;

  constructor(parts: LeaseParts) {
    this.parts = parts;
  }

  /** How often somebody who waits for the lease looks. */
  get lookEveryMs(): number {
    return Math.max(25, Math.min(250, this.parts.leaseMs / 8));
  }

  /** Takes the lease, or says who has it; both null: it is between two holders just now. */
  async tryClaim(): Promise<{ tenure: Tenure | null; holder: Instance | null }> {
    const { pool, instance, leaseMs, log } = this.parts;
    const epoch = await claimLease(pool, instance, leaseMs);
    if (epoch === null) return { tenure: null, holder: await findHolder(pool) };
    log.info({ epoch, instance: instance.name }, "this instance holds the lanes");
    return { tenure: this.keep(epoch), holder: instance };
  }

  private keep(epoch: number): Tenure {
    const { pool, log, leaseMs } = this.parts;
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
