/** The instances that lead beside this one: which leads what, and the ways to them. */

import { limits } from "../platform/config/limits.ts";
import type { Log } from "../platform/log.ts";
import type { Instance, ShardLease } from "../store/leases.ts";
import { Forward } from "./forward.ts";
import { PeerCalls } from "./peer-calls.ts";
import { NobodyThere } from "./peer-link.ts";
import type { PeerProof } from "./peer-proof.ts";
import { changingHands } from "./prove-peer.ts";

/** How soon a shard whose leader is not known, or did not answer, is looked at again, ms. */
const LOOK_AGAIN_MS = 50;
/** An instance of which nothing is heard for longer is missing, ms: it may just have begun to lead. */
const MISSING_AFTER_MS = 1_000;

export class Peers {
  readonly calls: PeerCalls;
  private readonly instance: Instance;
  private readonly log: Log;
  readonly proof: PeerProof;
  /** To the leader of each shard. */
  private readonly forwards = new Map<number, Forward>();
  private leading: readonly Instance[] = [];
  private count = 1;
  private onChange: () => void = () => {};
  /** Since when nothing is heard of others that lead, by address; by `performance.now()`. */
  private readonly unheardSince = new Map<string, number>();

  constructor(instance: Instance, log: Log, proof: PeerProof) {
    this.instance = instance;
    this.log = log;
    this.proof = proof;
    this.calls = new PeerCalls(instance.name, proof, log);
  }

  /** Of this instance. */
  get name(): string {
    return this.instance.name;
  }

  /** How many shards there are. */
  get shardCount(): number {
    return this.count;
  }

  /** @param held the shards that this instance leads: its lease of the run before is none */
  tell(shards: readonly ShardLease[], held: ReadonlySet<number>): void {
    this.count = shards.length;
    for (const { shard, leader } of shards) {
      const isOfRunBefore = leader?.name === this.instance.name && !held.has(shard);
      this.forwardTo(shard).leader = isOfRunBefore ? null : leader;
    }
    const numbers = new Set(shards.map(({ shard }) => shard));
    for (const shard of this.forwards.keys()) if (!numbers.has(shard)) this.forwards.delete(shard);
    this.lookWhoLeads();
  }

  /** Which instance leads a shard is unknown from now on; left out: which leads any. */
  forget(shard?: number): void {
    if (shard === undefined) for (const forward of this.forwards.values()) forward.leader = null;
    else this.forwardTo(shard).leader = null;
    this.lookWhoLeads();
  }

  /** This instance leads these. */
  leadsHere(shards: Iterable<number>): void {
    for (const shard of shards) this.forwardTo(shard).leader = this.instance;
    this.lookWhoLeads();
  }

  forwardTo(shard: number): Forward {
    const known = this.forwards.get(shard);
    if (known) return known;
    const made = new Forward(this.instance, this.log, this.proof);
    this.forwards.set(shard, made);
    return made;
  }

  /** All others that lead, by address. */
  others(): readonly Instance[] {
    return this.leading;
  }

  /** Names of others that lead and of which nothing is heard: what they know and count is missing here. */
  get missing(): string[] {
    const latest = performance.now() - MISSING_AFTER_MS;
    return this.leading.flatMap(({ address, name }) =>
      (this.unheardSince.get(address) ?? Number.POSITIVE_INFINITY) <= latest ? [name] : [],
    );
  }

  /** It tells what it knows; or it leads no longer, and nothing is expected of it. */
  heard({ address }: Instance): void {
    this.unheardSince.delete(address);
  }

  /** What it tells has ended. */
  unheard({ address }: Instance): void {
    if (!this.unheardSince.has(address)) this.unheardSince.set(address, performance.now());
  }

  private lookWhoLeads(): void {
    const leaders = new Map<string, Instance>();
    for (const { leader } of this.forwards.values())
      if (leader && leader.name !== this.instance.name) leaders.set(leader.address, leader);
    const before = new Set(this.leading.map(({ address }) => address));
    const come = [...leaders.values()].filter(({ address }) => !before.has(address));
    const gone = this.leading.filter(({ address }) => !leaders.has(address));
    for (const leader of come) this.unheard(leader);
    for (const leader of gone) this.heard(leader);
    this.leading = [...leaders.values()].sort((one, other) => (one.address < other.address ? -1 : 1));
    if (come.length + gone.length > 0) this.onChange();
  }

  /** Told when others begin or end to lead. */
  watch(onChange: () => void): void {
    this.onChange = onChange;
  }

  /**
   * Asks the leader of a shard, whoever that is in a moment.
   *
   * @param isHere whether this instance leads it by now
   * @returns null when this instance has become the leader
   * @throws RelayError what it refuses with; service-busy when there is none for too long; holder-lost when nobody knows
   */
  async ask<Answer>(
    shard: number,
    verb: string,
    body: object,
    withinMs: number,
    isHere: () => boolean,
  ): Promise<Answer | null> {
    const giveUpAt = performance.now() + limits.leaderWithinMs;
    while (!isHere()) {
      const { leader } = this.forwardTo(shard);
      if (leader && leader.name !== this.instance.name) {
        try {
          return await this.calls.call<Answer>(leader, verb, body, withinMs + limits.leaderWithinMs);
        } catch (error) {
          if (!(error instanceof NobodyThere)) throw error;
        }
      }
      if (performance.now() > giveUpAt) throw changingHands();
      await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN_MS));
    }
    return null;
  }

  close(): void {
    for (const forward of this.forwards.values()) forward.close();
    this.calls.close();
  }
}
