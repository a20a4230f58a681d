/** The whole service: one instance of it, which leads or stands by. */
import { randomUUID } from "node:crypto";
import type { RequestListener } from "node:http";
import { hostname } from "node:os";
import { setTimeout as pause } from "node:timers/promises";
import { type Leader, startLeader } from "../app/leader.ts";
import type { HttpServer } from "../http-exchange/http-server.ts";
import { WarmModel } from "../model/warm-model.ts";
import type { Clock } from "../platform/clock.ts";
import { brokerAccess } from "../platform/config/broker-access.ts";
import type { Config } from "../platform/config/config.ts";
import type { Log } from "../platform/log.ts";
import type { HeldLease, Instance as LeaseInstance } from "../store/leases.ts";
import type { Pool } from "../store/pool.ts";
import { clearRestored, wasRestored } from "../store/restored.ts";
import type { JournalBackend } from "../store/writers.ts";
import { requireFit, secretsMark } from "./admission.ts";
import { amongPeers, proving } from "./among-peers.ts";
import { Beat } from "./beat.ts";
import { BrokerReach } from "./broker-reach.ts";
import { Forward } from "./forward.ts";
import { Lease } from "./lease.ts";
import type { PeerProof } from "./peer-proof.ts";
import { Unanswered } from "./unanswered.ts";

export interface RunningService {
  /** "http://127.0.0.1:4180" */
  readonly url: string;
  /** Resolves once the broker link is up for the first time, which an instance that stands by may never see. */
  readonly linked: Promise<void>;
  /** Whether it holds the lanes just now. */
  readonly leads: boolean;
  /** Takes nothing new, finishes what is being written, closes everything. */
  stop(): Promise<void>;
}

/** So long another one has time to take the lead, ms. */
const REST_MS = 10_000;
/** What is asked when the lead is handed over has so long to be answered, ms: the lanes have it by then, or refuse it. */
const ANSWER_WITHIN_MS = 1_000;

export interface InstanceDeps {
  readonly config: Config;
  readonly log: Log;
  readonly clock: Clock;
  readonly server: HttpServer;
  readonly pool: Pool;
  readonly writerPool: Pool;
  readonly backendFor: (pool: Pool, epoch: number) => JournalBackend;
  readonly proof: PeerProof;
  readonly onStarted: (part: string) => void;
}

export class Instance implements RunningService {
  readonly linked: Promise<void>;
  private readonly config: Config;
  private readonly log: Log;
  private readonly clock: Clock;
  private readonly server: HttpServer;
  private readonly pool: Pool;
  private readonly writerPool: Pool;
  private readonly backendFor: InstanceDeps["backendFor"];
  private readonly lease: Lease;
  private readonly forward: Forward;
  private readonly beat: Beat;
  private readonly proof: PeerProof;
  private readonly onStarted: InstanceDeps["onStarted"];
  private onLinked: () => void = () => {};
  private held: { readonly leader: Leader; readonly heldLease: HeldLease } | null = null;
  private readonly run = randomUUID();
  private readonly unanswered = new Unanswered();
  private readonly model: WarmModel;
  private readonly instance: LeaseInstance;
  private restored: boolean;
  /** Ends the lead of this instance in order; there is nothing to end while it does not lead. */
  private giveWay: (why: string) => void = () => {};
  /** Until then another one is to lead, by `performance.now()`. */
  private restsUntil = 0;
  private turns: Promise<void> = Promise.resolve();
  private readonly stopping = new AbortController();
  private stopped: Promise<void> | null = null;

  constructor({ config, log, clock, server, pool, writerPool, backendFor, proof, onStarted }: InstanceDeps) {
    const name = config.instance ?? `${hostname()}:${new URL(server.url).port}`;
    const instance = { name, address: config.advertise ?? server.url };
    this.config = config;
    this.log = log;
    this.clock = clock;
    this.server = server;
    this.pool = pool;
    this.writerPool = writerPool;
    this.backendFor = backendFor;
    this.restored = config.restored;
    const broker = new BrokerReach({
      name,
      access: brokerAccess(config),
      clientId: config.brokerClientId,
      linkDownMs: () => this.held?.leader.linkDownMs ?? null,
    });
    this.instance = instance;
    this.model = new WarmModel(pool, log);
    this.beat = new Beat({
      ...{ instance, pool, log, run: this.run },
      secretsMark: secretsMark(config.secretsKey),
      brokerReached: (all) => broker.isReached(all),
      onBeat: (all) => {
        const advice = broker.advice(all);
        if (advice === "try again") this.held?.leader.hurryLink();
        if (advice === "give way") this.giveWay("it does not reach the broker, and another instance does");
      },
    });
    this.lease = new Lease({ pool, log, instance, leaseMs: config.leaseMs });
    this.proof = proof;
    this.onStarted = onStarted;
    this.forward = new Forward(instance, log, proof);
    this.linked = new Promise((resolve) => {
      this.onLinked = resolve;
    });
  }

  get url(): string {
    return this.server.url;
  }

  get leads(): boolean {
    return this.held !== null;
  }

  /** Resolves once requests are answered, here or by the leader. */
  async start(): Promise<void> {
    const { instance, run, pool, proof, config } = this;
    this.serve(this.forward.serve);
    const isAddressTold = config.advertise !== undefined;
    await requireFit({ instance, run, pool, proof, secretsKey: config.secretsKey, isAddressTold });
    await this.beat.start();
    const { leader } = await this.begin();
    this.forward.leader = leader;
    this.log.info({ url: this.url, leads: this.leads }, "answering");
    this.turns = this.takeTurns();
  }

  private async begin() {
    try {
      const claimed = await this.lease.tryClaim();
      if (claimed.heldLease) await this.takeUp(claimed.heldLease);
      else this.standBy();
      return claimed;
    } catch (error) {
      await this.beat.stop();
      throw error;
    }
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
        const given = new Promise<string>((resolve) => {
          this.giveWay = resolve;
        });
        const why = await Promise.race([this.held.heldLease.lost, stop, given]);
        if (signal.aborted) break;
        if (typeof why === "string") await this.giveUp(why);
        else await this.standAside();
      } else {
        await this.lookForTurn();
        if (!this.held) await pause(this.lease.lookEveryMs, null, { signal }).catch(() => {});
      }
    }
  }

  private async lookForTurn(): Promise<void> {
    if (performance.now() < this.restsUntil) return this.lookForLeader();
    try {
      const { heldLease, leader } = await this.lease.tryClaim();
      if (heldLease) await this.takeUp(heldLease);
      this.forward.leader = leader;
    } catch (error) {
      this.log.warn({ err: error }, "it is unknown which instance leads; this is tried again");
    }
  }

  private async lookForLeader(): Promise<void> {
    this.forward.leader = await this.lease.leader().catch(() => null);
  }

  private async takeUp(heldLease: HeldLease): Promise<void> {
    const { log, clock, pool } = this;
    const backendFor = (epoch: number) => this.backendFor(this.writerPool, epoch);
    // Whatever is with the leader before is not answered there any more; it comes back here.
    this.forward.leader = null;
    try {
      const config = { ...this.config, restored: this.restored || (await wasRestored(pool)) };
      const { onStarted } = this;
      const giveLead = (why: string) => this.giveWay(why);
      const takeModel = () => this.model.take();
      const own = { url: this.url, giveLead, takeModel, onStarted };
      const leader = await startLeader({ config, log, clock, pool, backendFor, heldLease, ...own });
      this.restored = false;
      await clearRestored(pool);
      this.held = { leader, heldLease };
      this.serve(amongPeers(this.proof, this.unanswered.counted(leader.serve)));
      // It is not waited for: it may just be reading the sites once more.
      void this.model.stop();
      void leader.linked.then(this.onLinked);
    } catch (error) {
      await heldLease.release().catch((cause: unknown) => log.warn({ err: cause }, "the lease is left to run out"));
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

  /** Another one is to lead: what is under way is finished as far as it can be, and the lease is free at once. */
  private async giveUp(why: string): Promise<void> {
    const { held } = this;
    this.log.warn({ why }, "this instance gives the lead to another one");
    this.restsUntil = performance.now() + REST_MS;
    this.held = null;
    this.standBy();
    await this.unanswered.over(ANSWER_WITHIN_MS, () => held?.leader.wakeAskers());
    await held?.leader.drain();
    await held?.heldLease
      .release()
      .catch((error: unknown) => this.log.warn({ err: error }, "the lease is left to run out"));
  }

  private standBy(): void {
    this.forward.leader = null;
    this.serve(this.forward.serve);
    this.model.start();
  }

  private serve(listener: RequestListener): void {
    this.server.serve(proving(this.proof, this.run, listener));
  }

  private async shutDown(): Promise<void> {
    this.log.info("stopping");
    this.stopping.abort();
    this.held?.leader.wakeAskers();
    this.forward.close();
    await this.server.close();
    await this.turns;
    await this.model.stop();
    await this.held?.leader.drain();
    await this.held?.heldLease
      .release()
      .catch((error: unknown) => this.log.warn({ err: error }, "the lease is left to run out"));
    await this.beat.stop();
    await Promise.all([this.pool.end(), this.writerPool.end()]);
    this.log.info("stopped");
  }
}
