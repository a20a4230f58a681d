/** The whole service: one instance of it, which leads or stands by. */
import { randomUUID } from "node:crypto";
import type { RequestListener } from "node:http";
import { hostname } from "node:os";
import { shardTurn } from "@bold-relay/core";
import { type Leader, startLeader } from "../app/leader.ts";
import type { HttpServer, UpgradeListener } from "../http-exchange/http-server.ts";
import { WarmModel } from "../model/warm-model.ts";
import { amongPeers, proving } from "../peers/among-peers.ts";
import type { PeerProof } from "../peers/peer-proof.ts";
import { Peers } from "../peers/peers.ts";
import type { Clock } from "../platform/clock.ts";
import { brokerAccess } from "../platform/config/broker-access.ts";
import type { Config } from "../platform/config/config.ts";
import type { Log } from "../platform/log.ts";
import type { HeldLease, Instance as LeaseInstance } from "../store/leases.ts";
import type { Pool } from "../store/pool.ts";
import type { JournalBackend } from "../store/writers.ts";
import { Able } from "./able.ts";
import { requireFit, secretsMark } from "./admission.ts";
import { Beat } from "./beat.ts";
import { BrokerReach } from "./broker-reach.ts";
import { Lead } from "./lead.ts";
import { Leases } from "./leases.ts";
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
/** How often an instance that leads all there is looks whether that is still so, ms. */
const LOOK_WHILE_LEADING_MS = 2_000;
/** What is asked when the lead is handed over has so long to be answered, ms: the lanes have it by then, or refuse it. */
const ANSWER_WITHIN_MS = 1_000;

export interface InstanceDeps {
  readonly config: Config;
  readonly log: Log;
  readonly clock: Clock;
  readonly server: HttpServer;
  readonly pool: Pool;
  readonly writerPool: Pool;
  readonly backend: JournalBackend;
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
  private readonly backend: JournalBackend;
  private readonly leases: Leases;
  private readonly peers: Peers;
  private readonly beat: Beat;
  private readonly able: Able;
  private readonly proof: PeerProof;
  private readonly onStarted: InstanceDeps["onStarted"];
  private onLinked: () => void = () => {};
  private readonly lead: Lead;
  private readonly run = randomUUID();
  private readonly unanswered = new Unanswered();
  private readonly model: WarmModel;
  private readonly instance: LeaseInstance;
  /** Why this instance is to lead nothing for a while; null: it may. */
  private givesUp: string | null = null;
  /** Until then others are to lead, by `performance.now()`. */
  private restsUntil = 0;
  /** There is something to do at once. */
  private isDue = false;
  private wakeUp: () => void = () => {};
  private turns: Promise<void> = Promise.resolve();
  private readonly stopping = new AbortController();
  private stopped: Promise<void> | null = null;

  constructor({ config, log, clock, server, pool, writerPool, backend, proof, onStarted }: InstanceDeps) {
    const name = config.instance ?? `${hostname()}:${new URL(server.url).port}`;
    const instance = { name, address: config.advertise ?? server.url };
    this.config = config;
    this.log = log;
    this.clock = clock;
    this.server = server;
    this.pool = pool;
    this.writerPool = writerPool;
    this.backend = backend;
    const broker = new BrokerReach({
      name,
      access: brokerAccess(config),
      clientId: config.brokerClientId,
      linkDownMs: () => this.lead.leader?.linkDownMs ?? null,
    });
    this.instance = instance;
    this.model = new WarmModel(pool, log);
    this.beat = new Beat({
      ...{ instance, pool, log, run: this.run },
      secretsMark: secretsMark(config.secretsKey),
      brokerReached: (all) => broker.isReached(all),
      onBeat: (all) => {
        const advice = broker.advice(all);
        if (advice === "try again") this.lead.leader?.hurryLink();
        if (advice === "give way") this.giveWay("it does not reach the broker, and another instance does");
      },
    });
    this.able = new Able({ me: name, proof, log, listed: () => this.beat.all });
    this.leases = new Leases({ pool, log, instance, leaseMs: config.leaseMs });
    this.peers = new Peers(instance, log, proof);
    const { unanswered } = this;
    this.lead = new Lead({
      log,
      leases: this.leases,
      start: (heldLeases) => this.startParts(heldLeases),
      onBegin: (leader) => this.beginLeading(leader),
      onEnd: () => this.standBy(),
      onLost: () => this.hurry(),
      answered({ links, wakeAskers }) {
        links.leave();
        return unanswered.over(ANSWER_WITHIN_MS, wakeAskers, () => links.unanswered);
      },
    });
    this.proof = proof;
    this.onStarted = onStarted;
    this.linked = new Promise((resolve) => {
      this.onLinked = resolve;
    });
  }

  get url(): string {
    return this.server.url;
  }

  get leads(): boolean {
    return this.lead.leader !== null;
  }

  /** Resolves once requests are answered, here or by a leader. */
  async start(): Promise<void> {
    const { instance, run, pool, proof, config } = this;
    this.serve(this.peers.forwardTo(0).serve);
    const isAddressTold = config.advertise !== undefined;
    await requireFit({ instance, run, pool, proof, secretsKey: config.secretsKey, isAddressTold });
    await this.beat.start();
    try {
      await this.look();
      if (this.lead.leader === null) this.standBy();
    } catch (error) {
      await this.beat.stop();
      throw error;
    }
    this.log.info({ url: this.url, leads: this.leads }, "answering");
    this.turns = this.takeTurns();
  }

  stop(): Promise<void> {
    this.stopped ??= this.shutDown();
    return this.stopped;
  }

  /** Stands by until some lanes are free, holds them until they are lost or given away, and so on. */
  private async takeTurns(): Promise<void> {
    const { signal } = this.stopping;
    signal.addEventListener("abort", () => this.hurry(), { once: true });
    while (!signal.aborted) {
      await this.nextTurn();
      if (signal.aborted) return;
      await this.lead.standAside();
      if (this.givesUp !== null) await this.giveUp(this.givesUp);
      await this.look().catch((error: unknown) =>
        this.log.warn({ err: error }, "it is unknown which instance leads; this is tried again"),
      );
    }
  }

  private hurry(): void {
    this.isDue = true;
    this.wakeUp();
  }

  /** Resolves when there is something to do, or it is time to look. */
  private async nextTurn(): Promise<void> {
    const leadsAll = this.peers.shardCount === 1 && this.lead.shards.size === 1;
    const withinMs = leadsAll ? LOOK_WHILE_LEADING_MS : this.leases.lookEveryMs;
    await new Promise<void>((resolve) => {
      if (this.isDue) return resolve();
      const timer = setTimeout(resolve, withinMs);
      this.wakeUp = () => {
        clearTimeout(timer);
        resolve();
      };
    });
    this.isDue = false;
  }

  /** Looks who leads what, takes what is free, and hands over what others should have. */
  private async look(): Promise<void> {
    const shards = await this.leases.all();
    this.peers.tell(shards, this.lead.shards);
    this.lead.dropMissing(new Set(shards.map(({ shard }) => shard)));
    if (performance.now() < this.restsUntil) return;
    const pictures = shards.map((one) => ({ ...one, leader: one.leader?.name ?? null }));
    const held = this.lead.shards;
    const { claim, give } = shardTurn({
      me: this.instance.name,
      held,
      shards: pictures,
      able: this.able.names(shards.length === 1),
    });
    const claimed: HeldLease[] = [];
    for (const shard of claim) {
      const heldLease = await this.leases.tryClaim(shard);
      if (heldLease) claimed.push(heldLease);
    }
    if (claimed.length > 0) await this.takeUp(claimed);
    if (!give || !(await this.able.answers(give.to))) return;
    this.peers.forget(give.shard);
    await this.lead.handOver(give.shard, give.to);
  }

  private async takeUp(claimed: readonly HeldLease[]): Promise<void> {
    // Whatever is with the leader before is not answered there any more; it comes back here.
    for (const { shard } of claimed) this.peers.forget(shard);
    await this.lead.takeUp(claimed);
    this.peers.leadsHere(this.lead.shards);
  }

  private async startParts(heldLeases: readonly HeldLease[]): Promise<Leader> {
    const { config, log, clock, pool, backend, onStarted, url } = this;
    const lookNow = () => this.hurry();
    const takeModel = () => this.model.take();
    const own = { url, lookNow, takeModel, onStarted, peers: this.peers };
    return startLeader({ config, log, clock, pool, backend, heldLeases, ...own });
  }

  private beginLeading(leader: Leader): void {
    this.serve(amongPeers(this.proof, this.unanswered.counted(leader.serve)), leader.links);
    // It is not waited for: it may just be reading the sites once more.
    void this.model.stop();
    void leader.linked.then(this.onLinked);
  }

  /** From now on another one is to lead. */
  private giveWay(why: string): void {
    if (this.lead.leader === null) return;
    this.givesUp = why;
    this.hurry();
  }

  private async giveUp(why: string): Promise<void> {
    this.givesUp = null;
    this.log.warn({ why }, "this instance gives the lead to another one");
    this.restsUntil = performance.now() + REST_MS;
    await this.lead.handOverAll();
  }

  private standBy(): void {
    this.peers.forget();
    this.serve(this.peers.forwardTo(0).serve);
    this.model.start();
  }

  private serve(listener: RequestListener, links?: UpgradeListener): void {
    this.server.serve(proving(this.proof, this.run, listener), links);
  }

  private async shutDown(): Promise<void> {
    this.log.info("stopping");
    this.stopping.abort();
    this.lead.leader?.wakeAskers();
    this.peers.close();
    await Promise.all([this.lead.leader?.links.close(), this.server.close()]);
    await this.turns;
    await this.model.stop();
    await this.lead.stop();
    await this.beat.stop();
    await Promise.all([this.pool.end(), this.writerPool.end()]);
    this.log.info("stopped");
  }
}
