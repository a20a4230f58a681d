/**
 * The one gate for whatever the service writes to the broker on somebody's behalf: by hand, a test request, a notification, an
 * answer. It knows whose the topic is, who writes, and what is locked out. Commands come from their lanes, where right and lock-out
 * were looked at with everything else; here their topic and their bytes are, once more.
 */
import {
  type ChannelEntry,
  obeys,
  overlapping,
  publishProblem,
  RelayError,
  type TopicWriting,
  topicFormProblem,
  type Writing,
} from "@bold-relay/core";
import type { AuditLog } from "../auth/audit-log.ts";
import type { Admitted } from "../auth/caller.ts";
import type { Lockouts } from "../state/lockouts.ts";
import type { Link } from "./link.ts";
import type { Publication } from "./link-listener.ts";
import type { TopicClaims } from "./topic-claims.ts";
import type { Wire } from "./wire.ts";

/** What lanes see of their link. */
export interface LaneLink extends Pick<Link, "isReady" | "publish"> {
  /**
   * Whether somebody has locked out an output that would act on a message: it is not written.
   *
   * @param messageOf asked only where something is locked out
   */
  isHeld(messageOf: () => Writing | null): boolean;
}

export interface BrokerGateDeps {
  readonly claims: TopicClaims;
  readonly lockouts: Lockouts;
  /** For what is not a command: rejects when the broker does not take it. */
  readonly wire: Pick<Wire, "publish">;
  readonly audit: AuditLog;
}

interface Sending {
  readonly qos: 0 | 1;
  readonly retain: boolean;
}

export interface ByHand extends Sending {
  readonly topic: string;
  readonly payload: Uint8Array;
  /** How it is put on record. */
  readonly shown: object;
  /** The caller knows that a lock-out of theirs stands there. */
  readonly confirmed: boolean;
}

export class BrokerGate {
  private readonly deps: BrokerGateDeps;

  constructor(deps: BrokerGateDeps) {
    this.deps = deps;
  }

  /** The way of lanes to their link. */
  forLanes(link: Link): LaneLink {
    return {
      isHeld: (messageOf) => {
        // Nearly always there is nobody, and a message costs more than this look.
        const message = this.deps.lockouts.isAny ? messageOf() : null;
        return message !== null && this.holderOf(message) !== null;
      },
      get isReady() {
        return link.isReady;
      },
      publish: (publication: Publication, onReceipt: (code: number) => void): void => {
        const problem = topicFormProblem(publication.topic);
        if (problem !== null) throw new Error(`${problem}: no command is written there`);
        const isClearing = publication.retain && publication.payload.length === 0;
        if (!isClearing && this.holderOf(publication) !== null) return;
        link.publish(publication, onReceipt);
      },
    };
  }

  /**
   * Whoever has locked out an output that acts on a message, whatever channel it is written for; null: nobody. Lanes know what is locked
   * out by itself: this holds where a description says otherwise than the wire.
   */
  private holderOf(message: Writing): string | null {
    const { lockouts } = this.deps;
    if (!lockouts.isAny) return null;
    for (const one of this.commandedOn(message.topic)) {
      const lockout = lockouts.of(one.id);
      if (lockout !== null && obeys(one, message)) return lockout.holder;
    }
    return null;
  }

  /** The channels that get their commands on a topic. */
  private commandedOn(topic: string): ChannelEntry[] {
    const { snapshot } = this.deps.claims;
    return overlapping(snapshot, topic).flatMap((own) => snapshot.byTopic.get(own)?.do ?? []);
  }

  /** @throws RelayError not-permitted, locked-out, lockout-unconfirmed, bad-request or service-busy */
  async publishByHand(caller: Admitted, { topic, payload, shown, confirmed, ...how }: ByHand): Promise<void> {
    this.requireRight({ by: "hand", sites: caller.sites }, topic);
    this.requireFree(caller, topic, confirmed);
    await this.deps.audit.recordPermitted(caller, { action: "published by hand", object: topic, after: shown });
    // Somebody may have locked it out while that was stored.
    this.requireFree(caller, topic, confirmed);
    await this.send(topic, payload, how);
  }

  /** @throws RelayError not-permitted, bad-request or service-busy */
  async publishTest(
    caller: Admitted,
    inlet: { readonly slug: string; readonly site: string | null },
    topic: string,
    payload: Uint8Array,
  ): Promise<void> {
    this.requireRight({ by: "test request", ...inlet }, topic);
    const after = { inlet: inlet.slug, payload: Buffer.from(payload).toString("utf8").slice(0, 500) };
    await this.deps.audit.recordPermitted(caller, { action: "test request published", object: topic, after });
    await this.send(topic, payload, { qos: 1, retain: false });
  }

  /** Why a notification may not be published there; null: it may. */
  notificationProblem(notification: { readonly slug: string; readonly site: string | null }, topic: string) {
    return publishProblem(this.deps.claims, { by: "notification", ...notification }, topic);
  }

  /** @throws Error with the reason, for the notification's own log */
  async publishNotification(
    notification: { readonly slug: string; readonly site: string | null },
    topic: string,
    payload: Uint8Array,
  ): Promise<void> {
    const problem = this.notificationProblem(notification, topic);
    if (problem !== null) throw new Error(problem);
    await this.deps.wire.publish(topic, payload, { qos: 1, retain: false });
  }

  /** Why a publisher may not be answered on the topic that it named; null: it may. */
  answerProblem(inlet: { readonly slug: string; readonly site: string | null }, topic: string): string | null {
    return publishProblem(this.deps.claims, { by: "answer", ...inlet }, topic);
  }

  private requireRight(writing: TopicWriting, topic: string): void {
    const form = topicFormProblem(topic);
    if (form !== null) throw new RelayError("bad-request", { why: form });
    const problem = publishProblem(this.deps.claims, writing, topic);
    if (problem !== null) throw new RelayError("not-permitted", { why: problem });
  }

  /** A lock-out binds whoever publishes by hand, too: a hand in the panel does not know where a command came from. */
  private requireFree({ memberId }: Admitted, topic: string, confirmed: boolean): void {
    for (const channel of this.commandedOn(topic)) {
      const lockout = this.deps.lockouts.of(channel.id);
      if (lockout === null) continue;
      const { holder, holderId } = lockout;
      const target = channel.address;
      if (holderId !== memberId) throw new RelayError("locked-out", { target, holder });
      if (!confirmed) throw new RelayError("lockout-unconfirmed", { target });
    }
  }

  private async send(topic: string, payload: Uint8Array, how: Sending): Promise<void> {
    await this.deps.wire.publish(topic, payload, how).catch((cause: unknown) => {
      const why = cause instanceof Error ? cause.message : String(cause);
      throw new RelayError("service-busy", { why: `The broker cannot be asked (${why})` }, { cause });
    });
  }
}
