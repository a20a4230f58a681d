/** Which instances could lead a shard just now. */
import { isAlive } from "@bold-relay/core";
import type { PeerProof } from "../peers/peer-proof.ts";
import { provePeer } from "../peers/prove-peer.ts";
import type { Log } from "../platform/log.ts";
import type { InstanceRecord } from "../store/instances.ts";

export interface AbleDeps {
  /** The name of this instance. */
  readonly me: string;
  readonly proof: PeerProof;
  readonly log: Log;
  /** Those that run, as they were told last. */
  readonly listed: () => readonly InstanceRecord[];
}

/** An instance that does not answer within so long is handed no shard for a while, ms. */
const ANSWER_WITHIN_MS = 1_000;
const ABSENT_MS = 3_000;

export class Able {
  private readonly deps: AbleDeps;
  /** Until when those that did not answer are handed nothing, by `performance.now()`. */
  private readonly absentUntil = new Map<string, number>();

  constructor(deps: AbleDeps) {
    this.deps = deps;
  }

  /** Their names, this one among them. @param isOnly there is one shard: a version without shards can lead it */
  names(isOnly: boolean): string[] {
    const now = performance.now();
    const others = this.deps
      .listed()
      .filter((one) => isAlive(one) && one.brokerReached !== false && (isOnly || one.knowsShards))
      .filter(({ name }) => now >= (this.absentUntil.get(name) ?? 0));
    return [...new Set([this.deps.me, ...others.map(({ name }) => name)])];
  }

  /** One that has just died is listed as alive for a while: a shard is handed only to one that answers. */
  async answers(name: string): Promise<boolean> {
    const { proof, log, listed } = this.deps;
    const to = listed().find((one) => one.name === name);
    const answers = to !== undefined && (await provePeer(to, proof, log, ANSWER_WITHIN_MS).catch(() => false));
    if (!answers) this.absentUntil.set(name, performance.now() + ABSENT_MS);
    return answers;
  }
}
