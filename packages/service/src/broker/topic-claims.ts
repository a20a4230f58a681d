/** Whose a topic is: what the model, inlets and notifications have at the broker, for whoever decides who may write or listen there. */
import {
  mayHear,
  type Snapshot,
  type TopicListener,
  type TopicPicture,
  type TopicTeller,
  topicOwners,
} from "@bold-relay/core";

/** What listens or publishes at the broker, and may change while the service runs. */
export interface TopicClaimant {
  readonly listeners?: readonly TopicListener[];
  readonly tellers?: readonly TopicTeller[];
}

/** The picture itself, looked at anew each time: only what is asked of it is gathered. */
export class TopicClaims implements TopicPicture {
  private readonly model: { readonly snapshot: Snapshot };
  readonly reserved: readonly string[];
  private readonly claimants: TopicClaimant[] = [];

  /**
   * @param model looked at anew each time
   * @param reserved filters of the service's own topics, which are nobody's
   */
  constructor(model: { readonly snapshot: Snapshot }, reserved: readonly string[]) {
    this.model = model;
    this.reserved = reserved;
  }

  add(claimant: TopicClaimant): void {
    this.claimants.push(claimant);
  }

  get snapshot(): Snapshot {
    return this.model.snapshot;
  }

  get listeners(): readonly TopicListener[] {
    return this.claimants.flatMap(({ listeners = [] }) => listeners);
  }

  get tellers(): readonly TopicTeller[] {
    return this.claimants.flatMap(({ tellers = [] }) => tellers);
  }

  /** Whether an inlet may take what comes on a topic. */
  mayHear(inlet: { readonly site: string | null }, topic: string): boolean {
    return mayHear(this, inlet, topic);
  }

  /** Whether a topic belongs to these sites and to nobody else. */
  isOf(topic: string, sites: readonly string[]): boolean {
    return topicOwners(this, topic).every(({ site }) => site !== null && sites.includes(site));
  }
}
