/** GET /api/v1/cluster: the instances that run beside each other, and which of them leads. */
export interface ClusterView {
  /** When this was true. */
  at: string;
  /** The name of the instance that leads, and since when; `leader` null: none does just now. */
  leader: string | null;
  since: string;
  /** By name. */
  instances: InstanceView[];
  /** What somebody should look at, a sentence each. */
  findings: string[];
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
  leads: boolean;
  /** How far its clock is ahead of the database's, ms. */
  aheadMs: number;
  residentMb: number;
  /** Share of one core over the last two seconds. */
  cpu: number;
  /** Whether it reaches the broker; null: it does not look, because it does not lead and the leader reaches it. */
  brokerReached: boolean | null;
}
