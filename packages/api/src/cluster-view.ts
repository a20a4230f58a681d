/** GET /api/v1/cluster: the instances that run beside each other, and which of them leads. */
export interface ClusterView {
  /** When this was true. */
  at: string;
  /** The name of the instance that leads the first shard, and since when; `leader` null: none does just now. */
  leader: string | null;
  since: string;
  /** By number, one at least. */
  shards: ShardView[];
  /** By name. */
  instances: InstanceView[];
  /** What somebody should look at, a sentence each. */
  findings: string[];
}

/** A part of the sites that is led as a whole. */
export interface ShardView {
  /** Its number, from 0. */
  shard: number;
  /** The name of the instance that leads it; null: none does just now. */
  leader: string | null;
  since: string;
  /** The instance that somebody chose to lead it; null: any. */
  chosen: string | null;
  /** The identifiers of its sites. */
  sites: string[];
}

export interface InstanceView {
  name: string;
  /** Where other instances reach it. */
  address: string;
  version: string;
  /** The commit that it was built from; null: it runs from a clone. */
  build: string | null;
  startedAt: string;
  /** How long ago it was seen, ms; it tells every two seconds that it is there. */
  seenMs: number;
  /** It was seen a moment ago. */
  alive: boolean;
  /** Whether it leads a shard. */
  leads: boolean;
  /** The numbers of the shards that it leads. */
  shards: number[];
  /** How far its clock is ahead of the database's, ms. */
  aheadMs: number;
  residentMb: number;
  /** Share of one core over the last two seconds. */
  cpu: number;
  /** Whether it reaches the broker; null: it does not look, because it does not lead and the leader reaches it. */
  brokerReached: boolean | null;
}
