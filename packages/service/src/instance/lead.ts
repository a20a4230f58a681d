/** What this instance leads: its leases, and the parts that run for them. */
import type { Leader } from "../app/leader.ts";
import type { Log } from "../platform/log.ts";
import type { HeldLease } from "../store/leases.ts";
import type { Leases } from "./leases.ts";

export interface LeadDeps {
  readonly log: Log;
  readonly leases: Leases;
  /** Starts the parts of an instance that leads these shards. */
  readonly start: (heldLeases: readonly HeldLease[]) => Promise<Leader>;
  /** It leads from now on. */
  readonly onBegin: (leader: Leader) => void;
  /** It leads nothing from now on. */
  readonly onEnd: () => void;
  /** Another instance has taken a lease. */
  readonly onLost: () => void;
  /** Resolves when what was asked of it until now is answered. */
  readonly answered: (leader: Leader) => Promise<void>;
}

export class Lead {
  private readonly deps: LeadDeps;
  private running: Leader | null = null;
  /** By shard. */
  private readonly held = new Map<number, HeldLease>();
  /** Leases that another instance has taken since. */
  private readonly lost: HeldLease[] = [];

  constructor(deps: LeadDeps) {
    this.deps = deps;
  }

  /** Its parts; null while it leads nothing. */
  get leader(): Leader | null {
    return this.running;
  }

  get shards(): ReadonlySet<number> {
    return new Set(this.held.keys());
  }

  /** @throws what a part fails with, if nothing was led before; the leases are free again then */
  async takeUp(claimed: readonly HeldLease[]): Promise<void> {
    const { running } = this;
    if (running === null) await this.begin(claimed);
    else for (const heldLease of claimed) await this.leadToo(running, heldLease);
  }

  private async begin(heldLeases: readonly HeldLease[]): Promise<void> {
    try {
      this.running = await this.deps.start(heldLeases);
    } catch (error) {
      for (const heldLease of heldLeases) await this.release(heldLease);
      throw error;
    }
    for (const heldLease of heldLeases) await this.keep(heldLease);
    this.deps.onBegin(this.running);
  }

  private async leadToo(leader: Leader, heldLease: HeldLease): Promise<void> {
    try {
      await leader.takeUp(heldLease);
      await this.keep(heldLease);
    } catch (error) {
      this.deps.log.error({ err: error, shard: heldLease.shard }, "a shard could not be taken up");
      await this.release(heldLease);
    }
  }

  private async keep(heldLease: HeldLease): Promise<void> {
    await heldLease.taken();
    this.held.set(heldLease.shard, heldLease);
    void heldLease.lost.then(() => {
      this.lost.push(heldLease);
      this.deps.onLost();
    });
  }

  /** Those that are not there any more are led by nobody. @param shards the numbers of all that there are */
  dropMissing(shards: ReadonlySet<number>): void {
    for (const [shard, heldLease] of this.held) if (!shards.has(shard)) heldLease.end();
  }

  /** Lets go of what other instances lead by now. */
  async standAside(): Promise<void> {
    for (const { shard, epoch } of this.lost.splice(0)) {
      if (this.held.get(shard)?.epoch !== epoch) continue;
      const { running } = this;
      this.deps.log.warn({ shard }, "another instance has taken over the lanes");
      this.held.delete(shard);
      if (this.held.size > 0) {
        await running?.leave(shard, "abandon");
        continue;
      }
      this.running = null;
      this.deps.onEnd();
      await running?.abandon();
    }
  }

  /** What was asked for until now is finished as far as it can be, and the lease is free at once. */
  async handOver(shard: number, to: string): Promise<void> {
    const heldLease = this.held.get(shard);
    if (!heldLease) return;
    const { log, leases } = this.deps;
    log.warn({ shard, to }, "this instance hands the lead over");
    await leases.want(shard, to);
    if (this.held.size === 1) return this.handOverAll();
    this.held.delete(shard);
    await this.running?.leave(shard, "drain");
    await this.release(heldLease);
  }

  /** The same for everything that it leads. */
  async handOverAll(): Promise<void> {
    const { running } = this;
    const heldLeases = [...this.held.values()];
    this.held.clear();
    this.running = null;
    this.deps.onEnd();
    if (running) await this.deps.answered(running);
    await running?.drain();
    for (const heldLease of heldLeases) await this.release(heldLease);
  }

  /** The service stops. */
  async stop(): Promise<void> {
    await this.running?.drain();
    for (const heldLease of this.held.values()) await this.release(heldLease);
  }

  private async release(heldLease: HeldLease): Promise<void> {
    await heldLease
      .release()
      .catch((error: unknown) => this.deps.log.warn({ err: error }, "the lease is left to run out"));
  }
}
