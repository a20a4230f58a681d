/**
 * What is really on the broker, for whoever looks, and publishing by hand. A connection of its own, there only while it
 * is needed: the one that carries commands must not be slowed by a flood, nor by a slow reader.
 *
 * While somebody subscribes to command topics the broker no longer says that nobody listens there (MQTT 5, 3.4.2.1).
 * So by default only what devices say is subscribed to, and what we write ourselves is shown as we write it.
 */
import { covers, overlap, readTopic, type Snapshot, type TopicMeaning } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { BrokerAccess } from "../platform/config/broker-access.ts";
import type { Log } from "../platform/log.ts";
import { BriefConnection } from "./brief-connection.ts";
import { requireGranted } from "./granted.ts";
import type { TopicClaims } from "./topic-claims.ts";

export interface WireMessage extends TopicMeaning {
  /** ms since 1970. */
  readonly at: number;
  readonly topic: string;
  readonly payload: Uint8Array;
  readonly retained: boolean;
  /** Written by the service itself, or by hand through it. */
  readonly own: boolean;
}

export interface WireWatch {
  /** An MQTT topic filter. */
  readonly filter: string;
  /** Everything that it covers, even command topics and what nobody claims; else only what devices of ours say. */
  readonly all: boolean;
  /** Only what belongs to these sites; null: everything. Default null. */
  readonly sites?: readonly string[] | null;
  /** So many a second are told at most; default what a person can read, 100. */
  readonly most?: number;
  readonly onMessage: (message: WireMessage) => void;
  /** So many were left out since the last one, for there were more than can be read. */
  readonly onSkipped: (count: number) => void;
  /** What these instances write is not shown from now on, for nothing is heard of them; none: all is shown again. */
  readonly onMissing?: (instances: readonly string[]) => void;
  readonly onEnd: (why: string) => void;
}

export interface WireDeps {
  readonly access: BrokerAccess;
  readonly clientId: string;
  readonly clock: Clock;
  readonly log: Log;
  readonly board: { readonly snapshot: Snapshot };
  readonly claims: Pick<TopicClaims, "isOf">;
  /** Names of instances that write too, and of which nothing is heard. */
  readonly missing: () => readonly string[];
}

/** More than this a second nobody can read; the rest is counted. */
const MOST_A_SECOND = 100;
const PUBLISH_WITHIN_MS = 5_000;
const LINGER_MS = 30_000;

interface Watcher extends WireWatch {
  readonly subscribed: readonly string[];
  shown: number;
  skipped: number;
  /** Names of the instances that it was told are missing. */
  missing: string;
}

export class Wire {
  private readonly deps: WireDeps;
  private readonly watchers = new Set<Watcher>();
  private readonly counts = new Map<string, number>();
  private readonly taps = new Set<(topic: string, payload: Uint8Array) => void>();
  private readonly connection: BriefConnection;
  private readonly tick: NodeJS.Timeout;

  constructor(deps: WireDeps) {
    this.deps = deps;
    this.connection = new BriefConnection({
      access: deps.access,
      clientId: deps.clientId,
      lingerMs: LINGER_MS,
      onMessage: ({ topic, payload, retain }) =>
        this.show(topic, typeof payload === "string" ? Buffer.from(payload) : payload, retain, false),
      onLost: (why) => {
        deps.log.debug({ why }, "the wire's connection");
        for (const watcher of [...this.watchers]) watcher.onEnd("the broker closed the connection");
      },
    });
    this.tick = setInterval(() => this.tellLacks(), 1_000);
  }

  get size(): number {
    return this.watchers.size;
  }

  /** @throws Error when the broker cannot be reached */
  async connect(): Promise<void> {
    await this.connection.get();
    this.closeLater();
  }

  /** Whether watching this would hide from us that nobody listens on command topics. */
  masks({ filter, all }: Pick<WireWatch, "filter" | "all">): boolean {
    return all && this.deps.board.snapshot.doFilters.some((one) => overlap(one, filter));
  }

  /**
   * Shows messages until the watch is ended.
   *
   * @returns ends it
   * @throws Error when the broker cannot be reached or does not permit it
   */
  async watch(wanted: WireWatch): Promise<() => void> {
    const connection = await this.connection.get();
    const { filters } = this.deps.board.snapshot;
    const subscribed = wanted.all ? [wanted.filter] : filters.filter((one) => overlap(one, wanted.filter));
    const watcher: Watcher = { ...wanted, subscribed, shown: 0, skipped: 0, missing: "" };
    this.watchers.add(watcher);
    for (const filter of subscribed) this.counts.set(filter, (this.counts.get(filter) ?? 0) + 1);
    // Asked for even if it stands: what lies retained comes again, and whoever looks now sees it too.
    try {
      if (subscribed.length > 0) requireGranted(subscribed, await connection.subscribe(subscribed, { qos: 0 }));
    } catch (error) {
      this.end(watcher);
      throw error;
    }
    return () => this.end(watcher);
  }

  /** What this instance writes on its own connection. */
  wrote(topic: string, payload: Uint8Array): void {
    for (const tap of this.taps) tap(topic, payload);
    this.wroteAnywhere(topic, payload);
  }

  /** Tells everything that this instance writes. @returns ends it */
  tap(tap: (topic: string, payload: Uint8Array) => void): () => void {
    this.taps.add(tap);
    return () => void this.taps.delete(tap);
  }

  /** What this instance or another one writes. */
  wroteAnywhere(topic: string, payload: Uint8Array): void {
    if (this.watchers.size === 0) return;
    const heardAnyway = [...this.counts.keys()].some((filter) => covers(filter, topic));
    if (!heardAnyway) this.show(topic, payload, false, true);
  }

  /** @throws Error when the broker does not take it in time */
  async publish(topic: string, payload: Uint8Array, { qos, retain }: { qos: 0 | 1; retain: boolean }): Promise<void> {
    const connection = await this.connection.get();
    try {
      const message = { topic, payload: Buffer.from(payload), qos, retain };
      await this.connection.publish(connection, message, PUBLISH_WITHIN_MS);
    } finally {
      this.closeLater();
    }
    this.wrote(topic, payload);
  }

  async close(): Promise<void> {
    clearInterval(this.tick);
    for (const watcher of [...this.watchers]) watcher.onEnd("the service stops");
    await this.connection.close();
  }

  private end(watcher: Watcher): void {
    if (!this.watchers.delete(watcher)) return;
    const gone = watcher.subscribed.filter((filter) => {
      const left = (this.counts.get(filter) ?? 1) - 1;
      if (left > 0) this.counts.set(filter, left);
      else this.counts.delete(filter);
      return left <= 0;
    });
    if (gone.length > 0) void this.connection.standing?.then((one) => one.unsubscribe(gone)).catch(() => {});
    this.closeLater();
  }

  private show(topic: string, payload: Uint8Array, retained: boolean, own: boolean): void {
    const watching = [...this.watchers].filter((one) => covers(one.filter, topic) && this.isFor(one, topic));
    const free = watching.filter((one) => one.shown < (one.most ?? MOST_A_SECOND));
    for (const watcher of watching) {
      if (watcher.shown >= (watcher.most ?? MOST_A_SECOND)) watcher.skipped += 1;
      else watcher.shown += 1;
    }
    if (free.length === 0) return;
    const message = {
      ...readTopic(this.deps.board.snapshot, topic, payload),
      at: this.deps.clock.now(),
      topic,
      payload,
      retained,
      own,
    };
    for (const watcher of free) watcher.onMessage(message);
  }

  private isFor({ sites = null }: Watcher, topic: string): boolean {
    return sites === null || this.deps.claims.isOf(topic, sites);
  }

  /** What is not shown of the last second. */
  private tellLacks(): void {
    const missing = this.deps.missing();
    for (const watcher of this.watchers) {
      if (watcher.missing !== missing.join(" ")) watcher.onMissing?.(missing);
      watcher.missing = missing.join(" ");
      if (watcher.skipped > 0) watcher.onSkipped(watcher.skipped);
      watcher.skipped = 0;
      watcher.shown = 0;
    }
  }

  private closeLater(): void {
    if (this.watchers.size === 0) this.connection.release();
  }
}
