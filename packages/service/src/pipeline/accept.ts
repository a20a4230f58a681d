/** From an intent to an accepted request: match, resolve, guard, journal, lane. Answers only what is durable. */
import { hash } from "node:crypto";
import {
  type Asker,
  type CommandId,
  type CommandOrder,
  codecs,
  guard,
  type Intent,
  newCommand,
  type Plan,
  RelayError,
  type RequestId,
  type Snapshot,
} from "@bold-relay/core";
import type { Clock } from "../clock.ts";
import { newId } from "../id.ts";
import type { Feed } from "../live/feed.ts";
import type { AcceptResult, AcceptRow } from "../store/accept-requests.ts";
import type { GroupCommit } from "../store/group-commit.ts";
import type { LaneBook } from "./lane-book.ts";
import type { Lockouts } from "./lockouts.ts";
import type { OpenRequest, RequestBook } from "./request-book.ts";

export interface AcceptParts {
  readonly clock: Clock;
  readonly snapshot: Snapshot;
  readonly writer: GroupCommit<AcceptRow, AcceptResult>;
  readonly book: RequestBook;
  readonly lanes: LaneBook;
  readonly lockouts: Lockouts;
  readonly feed: Feed;
  readonly commitWaitMs: number;
}

/** Takes one intent; resolves once its request is durable and its lane has it. */
export type Accept = (intent: Intent, asker: Asker) => Promise<OpenRequest | Repeated>;

/** The same call was made before: nothing was sent, and this is the request that it made then. */
interface Repeated {
  readonly original: RequestId;
}

/**
 * Rejections: the refusal itself, once it is journaled, with `request` among its facts; service-busy when
 * nothing was taken; journal-unavailable when nobody knows; wrong-key when the key was revoked meanwhile.
 */
export function createAccept(parts: AcceptParts): Accept {
  const { clock, snapshot, writer, book, lanes, lockouts, feed, commitWaitMs } = parts;

  /** Resolves once the row is durable; `then` runs even if its asker was told meanwhile that nobody knows. */
  function keep<Result>(row: AcceptRow, then: (seq: number | null) => Result): Promise<Result | Repeated> {
    const kept = writer.enqueue(row).then((result) => {
      if (result.kept) return then(result.seq);
      if (result.original === null) throw new RelayError("wrong-key");
      if (!result.sameBody) throw new RelayError("repeat-key-reused", { request: result.original });
      return { original: result.original as RequestId };
    });
    return withTime(kept, commitWaitMs, () => new RelayError("journal-unavailable", { request: row.id }));
  }

  function launch(row: AcceptRow, plan: Plan, seq: number): OpenRequest {
    const open = book.open({ ...row, id: row.id as RequestId, refusal: null });
    const command = newCommand(orderOf(row, plan, seq), clock.now());
    book.update(command);
    if (lockouts.of(plan.channel.id)) lanes.refuse(command);
    else lanes.dispatch(plan.channel.id, { type: "accept", command });
    return open;
  }

  return async (intent, asker) => {
    const askedAt = clock.now();
    const guarded = guard(snapshot, intent, asker, (channel) => lockouts.of(channel));
    const row = rowOf(newId(), askedAt, intent, asker, guarded);
    if (guarded.plan === null) {
      const kept = await keep(row, () =>
        feed.tell({ name: "request", data: { id: row.id, outcome: guarded.outcome } }),
      );
      if (kept) return kept;
      throw new RelayError(guarded.refusal.code, { ...guarded.refusal.facts, request: row.id });
    }
    const { plan } = guarded;
    // A repeated commit finds no open command only if its lane had it already, which this process would know.
    return keep(row, (seq) => launch(row, plan, seq ?? 0));
  };
}

/** What a command orders, from what is durable of it and the channel as it is configured now. */
function orderOf(row: AcceptRow, { channel, to }: Plan, seq: number): CommandOrder {
  const id = row.command?.id as CommandId;
  const payload = codecs[channel.profile.codec].encode(id, to);
  return {
    id,
    requestId: row.id as RequestId,
    channel: channel.id,
    seq,
    to,
    policy: channel.policy,
    askedAt: row.askedAt,
    wire: { topic: channel.topics.do, payload: Buffer.from(payload).toString("utf8") },
  };
}

function rowOf(
  id: string,
  askedAt: number,
  intent: Intent,
  asker: Asker,
  guarded: ReturnType<typeof guard>,
): AcceptRow {
  const arrival = {
    id,
    askedAt,
    inlet: asker.inlet,
    asker: asker.name,
    keyId: asker.keyId,
    target: intent.target,
    action: intent.action,
    idempotency: idempotencyOf(intent, asker),
  };
  if (guarded.plan === null) {
    const { code, facts } = guarded.refusal;
    return { ...arrival, outcome: guarded.outcome, refusal: { code, facts }, command: null };
  }
  const command = { id: newId(), channelId: guarded.plan.channel.id, to: guarded.plan.to };
  return { ...arrival, outcome: null, refusal: null, command };
}

/** Keys of different askers never meet: each has its own, by API key or by name. */
function idempotencyOf({ target, action, until, repeatKey }: Intent, { inlet, keyId, name }: Asker) {
  if (repeatKey === null) return null;
  const bodySha256 = hash("sha256", JSON.stringify([target, action, until, name]));
  return { asker: keyId === null ? `${inlet} ${name}` : `key ${keyId}`, key: repeatKey, bodySha256 };
}

async function withTime<Result>(work: Promise<Result>, ms: number, late: () => Error): Promise<Result> {
  let timer: NodeJS.Timeout | undefined;
  const deadline = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(late()), ms);
  });
  try {
    return await Promise.race([work, deadline]);
  } finally {
    clearTimeout(timer);
  }
}
