/** A request and its commands as they go to the journal. */

import { hash } from "node:crypto";
import {
  type Asker,
  type BlockReason,
  type Intent,
  type Order,
  type RequestId,
  valueText,
  withoutSecrets,
  withoutSecretsIn,
} from "@bold-relay/core";
import { newId } from "../platform/id.ts";
import type { AcceptRow, CommandRow, DeadlineWhy } from "../store/accept-rows.ts";
import type { RequestRecord } from "../store/find-requests.ts";
import type { OnKept } from "./recent-deliveries.ts";

/** An arrival that is being decided on. */
export interface PendingRequest {
  readonly id: string;
  /** ms since 1970. */
  readonly askedAt: number;
  readonly intent: Intent;
  readonly asker: Asker;
  /** Told, where its broker may bring it again, what settles when it is certain whether it was stored. */
  readonly onKept?: OnKept;
}
/** What was made of it, as it goes to the journal. */
export type Made = Pick<AcceptRow, "outcome" | "refusal" | "site" | "commands" | "deadlineOf">;

export function commandRow(order: Order, { askedAt, intent: { forMs } }: PendingRequest): CommandRow {
  const { channel, to, urgent, clearWithinMs, blocked } = order;
  // A device that times itself has the first word: the service only sees to it that it kept it.
  const patienceMs = channel.policy.timesItself ? channel.policy.ackWithinMs : 0;
  const lastsMs = order.forMs === null ? null : order.forMs + patienceMs;
  const deadline =
    lastsMs === null || blocked ? null : { dueAt: askedAt + lastsMs, forMs: lastsMs, why: whyOff(order, forMs) };
  return {
    id: newId(),
    channelId: channel.id,
    to: valueText(to),
    urgent,
    forMs: order.forMs,
    clearWithinMs,
    blocked: blocked satisfies BlockReason | null,
    deadline,
  };
}

function whyOff({ channel, forMs }: Order, askedMs: number | null): DeadlineWhy {
  if (forMs === askedMs) return "timed off";
  return forMs === channel.policy.holdForMs ? "end of hold" : "auto-off";
}

/** Written out, like everything that is made for each request. */
export function rowOf({ id, askedAt, intent, asker }: PendingRequest, made: Partial<Made>): AcceptRow {
  return {
    id,
    askedAt,
    requester: asker.requester,
    memberId: asker.memberId,
    inlet: asker.inlet,
    asker: withoutSecrets(asker.name),
    keyId: asker.keyId,
    session: asker.session ?? null,
    target: withoutSecrets(intent.target),
    action: withoutSecrets(intent.action),
    value: withoutSecretsIn(intent.value),
    forMs: keptTime(intent.forMs),
    said: withoutSecretsIn(intent.said ?? null),
    traceparent: intent.traceparent ?? null,
    idempotency: idempotencyOf(intent, asker),
    outcome: made.outcome ?? null,
    refusal: withoutSecretsIn(made.refusal ?? null),
    site: made.site ?? null,
    commands: made.commands ?? [],
    deadlineOf: made.deadlineOf ?? null,
  };
}

/** Of a request that is refused for its time whatever was asked is kept, as far as the column holds it. */
function keptTime(forMs: number | null): number | null {
  const most = 2147483647;
  return forMs === null ? null : Math.max(-most, Math.min(most, Math.round(forMs)));
}

export function recordOf(row: AcceptRow): RequestRecord {
  return {
    id: row.id as RequestId,
    askedAt: row.askedAt,
    requester: row.requester,
    memberId: row.memberId,
    inlet: row.inlet,
    asker: row.asker,
    target: row.target,
    action: row.action,
    value: row.value,
    forMs: row.forMs,
    said: row.said,
    traceparent: row.traceparent,
    outcome: row.outcome,
    refusal: null,
    site: row.site,
  };
}

/** Keys of different askers never meet: each has its own, by API key, by member, or by inlet and sender. */
function idempotencyOf({ target, action, value, forMs, until, repeatKey }: Intent, asker: Asker) {
  if (repeatKey === null) return null;
  const { inlet, keyId, memberId, name } = asker;
  const bodySha256 = hash("sha256", JSON.stringify([target, action, value, forMs, until, name]));
  const who = keyId !== null ? `key ${keyId}` : memberId !== null ? `member ${memberId}` : `inlet ${inlet} ${name}`;
  return { asker: who, key: repeatKey, bodySha256 };
}
