/** The whole service: one instance of it, which holds the lanes or stands by. Started by main.ts, and by tests in their own process. */
import { hostname } from "node:os";
import { type Leader, startLeader } from "./app/leader.ts";
import { type Clock, steadyClock } from "./clock.ts";
import type { Config } from "./config/config.ts";
import { amongPeers } from "./holder/among-peers.ts";
import { Forward } from "./holder/forward.ts";
import { Lease, type Tenure } from "./holder/lease.ts";
import { findPeerProof, type PeerProof } from "./holder/peer-proof.ts";
import { type Door, openDoor } from "./http/door.ts";
import type { Log } from "./log.ts";
import { preparePartitions } from "./store/partitions.ts";
import { createPool, createWriterPool, type Pool } from "./store/pool.ts";
import { prepareJournal } from "./store/prepare.ts";
import { type Keeping, keepInJournal, WRITERS } from "./store/writers.ts";

export interface RunningService {
  /** "http://127.0.0.1:4180" */
  readonly url: string;
  /** Resolves once the broker link is up for the first time, which an instance that stands by may never see. */
  readonly linked: Promise<void>;
  /** Whether it holds the lanes just now. */
  readonly holds: boolean;
  /** Takes nothing new, finishes what is being written, closes everything. */
  stop(): Promise<void>;
}

/**
 * Opens the door at once, waits for the database, then takes up the lanes, or stands by while another instance has them.
 *
 * @param keepIn where requests and commands are kept; only a benchmark of everything else keeps them elsewhere
 * @param onStarted told of each part once it has started; what it throws fails the start there
 * @throws what waiting cannot cure, after closing what was opened
 */
export async function startService(
  config: Config,
  log: Log,
  clock: Clock = steadyClock,
  keepIn: (pool: Pool, epoch: number) => Keeping = keepInJournal,
  onStarted: (part: string) => void = () => {},
): Promise<RunningService> {
  const door = await openDoor(config);
  const onIdleError = (error: Error) => log.warn({ err: error }, "an idle database connection broke");
  const pool = createPool(config.databaseUrl, onIdleError);
  const writerPool = createWriterPool(config.databaseUrl, WRITERS, onIdleError);
  try {
    await prepareJournal(pool, log);
    await preparePartitions(pool, clock.now());
    const proof = await findPeerProof(pool);
    const instance = new Instance({ config, log, clock, door, pool, writerPool, keepIn, proof, onStarted });
    await instance.start();
    return instance;
  } catch (error) {
    await Promise.all([door.close(), pool.end(), writerPool.end()]);
    throw error;
  }
}

interface InstanceParts {
  readonly config: Config;
  readonly log: Log;
  readonly clock: Clock;
  readonly door: Door;
  readonly pool: Pool;
  readonly writerPool: Pool;
  readonly keepIn: (pool: Pool, epoch: number) => Keeping;
  readonly proof: PeerProof;
  readonly onStarted: (part: string) => void;
}

class Instance implements RunningService {
  readonly linked: Promise<void>;
  private readonly config: Config;
  private readonly log: Log;
  private readonly clock: Clock;
  private readonly door: Door;
  private readonly pool: Pool;
  private readonly writerPool: Pool;
  private readonly keepIn: InstanceParts["keepIn"];
  private readonly lease: Lease;
  private readonly forward: Forward;
  private readonly proof: PeerProof;
  private readonly onStarted: InstanceParts["onStarted"];
  private onLinked: () => void = () => {};
  private held: { readonly leader: Leader; readonly tenure: Tenure } | null = null;
  private restored: boolean;
  private turns: Promise<void> = Promise.resolve();
  private readonly stopping = new AbortController();
  private stopped: Promise<void> | null = null;

  constructor({ config, log, clock, door, pool, writerPool, keepIn, proof, onStarted }: InstanceParts) {
    const name = config.instance ?? `${hostname()}:${new URL(door.url).port}`;
    const instance = { name, address: config.advertise ?? door.url };
    this.config = config;
    this.log = log;
    this.clock = clock;
    this.door = door;
    this.pool = pool;
    this.writerPool = writerPool;
    this.keepIn = keepIn;
    this.restored = config.restored;
    this.lease = new Lease({ pool, log, instance, leaseMs: config.leaseMs });
    this.proof = proof;
    this.onStarted = onStarted;
    this.forward = new Forward(instance, log, proof);
    this.linked = new Promise((resolve) => {
      this.onLinked = resolve;
    });
  }

  get url(): string {
    return this.door.url;
  }

  get holds(): boolean {
    return this.held !== null;
  }

  /** Resolves once requests are answered, here or by the holder. */
  async start(): Promise<void> {
    const { tenure, holder } = await this.lease.tryClaim();
    if (tenure) await this.takeUp(tenure);
    else this.standBy();
    this.forward.holder = holder;
    this.log.info({ url: this.url, holds: this.holds }, "answering");
    this.turns = this.takeTurns();
  }

  stop(): Promise<void> {
    this.stopped ??= this.shutDown();
    return this.stopped;
  }

  /** Stands by until the lanes are free, holds them until they are lost, and so on. */
  private async takeTurns(): Promise<void> {
    const { signal } = this.stopping;
    const stop = new Promise<void>((resolve) => {
      signal.addEventListener("abort", () => resolve());
    });
    while (!signal.aborted) {
      if (this.held) {
        await Promise.race([this.held.tenure.lost, stop]);
        if (!signal.aborted) await this.standAside();
      } else {
        await this.lookForTurn();
        if (!this.held) await pause(this.lease.lookEveryMs, signal);
      }
    }
  }

  private async lookForTurn(): Promise<void> {
    try {
      const { tenure, holder } = await this.lease.tryClaim();
      if (tenure) await this.takeUp(tenure);
      this.forward.holder = holder;
    } catch (error) {
      this.log.warn({ err: error }, "nobody can say who holds the lanes, it will be tried again");
    }
  }

  private async takeUp(tenure: Tenure): Promise<void> {
    const { log, clock, pool } = this;
    const keeping = (epoch: number) => this.keepIn(this.writerPool, epoch);
    // Whatever is with the holder before is not answered there any more; it comes back here.
    this.forward.holder = null;
    try {
      const config = { ...this.config, restored: this.restored };
      const { onStarted } = this;
      const leader = await startLeader({ config, log, clock, pool, keeping, tenure, url: this.url, onStarted });
      this.restored = false;
      this.held = { leader, tenure };
      this.door.serve(amongPeers(this.proof, leader.serve));
      void leader.linked.then(this.onLinked);
    } catch (error) {
      await tenure.release().catch((cause: unknown) => log.warn({ err: cause }, "the lease is left to run out"));
      throw error;
    }
  }

  private async standAside(): Promise<void> {
    const { held } = this;
    this.log.warn("another instance has taken over the lanes");
    this.held = null;
    this.standBy();
    await held?.leader.abandon();
  }

  private standBy(): void {
    this.forward.holder = null;
    this.door.serve(this.forward.serve);
  }

  private async shutDown(): Promise<void> {
    this.log.info("stopping");
    this.stopping.abort();
    this.held?.leader.wakeAskers();
    this.forward.close();
    await this.door.close();
    await this.turns;
    await this.held?.leader.drain();
    await this.held?.tenure
      .release()
      .catch((error: unknown) => this.log.warn({ err: error }, "the lease is left to run out"));
    await Promise.all([this.pool.end(), this.writerPool.end()]);
    this.log.info("stopped");
  }
}

function pause(ms: number, signal: AbortSignal): Promise<void> {
  return new Promise((resolve) => {
    const timer = setTimeout(resolve, ms);
    signal.addEventListener(
      "abort",
      () => {
        clearTimeout(timer);
        resolve();
      },
      { once: true },
    );
  });
}
