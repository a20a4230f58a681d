/** From an intent to an accepted request: match, resolve, guard, decide, journal, lane. Answers only what is durable. */
import { hash } from "node:crypto";
import {
  type Asker,
  type Bundle,
  type ChannelId,
  type CommandId,
  type CommandOrder,
  type Doom,
  decide,
  guard,
  type Intent,
  kindOf,
  newCommand,
  type Order,
  type Part,
  payloadText,
  policyFor,
  READ,
  RelayError,
  type RequestId,
  readsBack,
  type Situation,
  valueText,
  writingFor,
} from "@bold-relay/core";
import type { Clock } from "../clock.ts";
import { failHere } from "../failpoint.ts";
import { newId } from "../id.ts";
import type { Feed } from "../live/feed.ts";
import type { Metrics } from "../metrics.ts";
import type { AcceptResult, AcceptRow, CommandRow, DeadlineWhy } from "../store/accept-requests.ts";
import type { GroupCommit } from "../store/group-commit.ts";
import type { Board } from "./board.ts";
import type { Deadlines } from "./deadlines.ts";
import type { LaneBook } from "./lane-book.ts";
import type { Lockouts } from "./lockouts.ts";
import type { OpenRequest, RequestBook } from "./request-book.ts";
import { Turnstile } from "./turnstile.ts";

export interface AcceptParts {
  readonly clock: Clock;
  readonly board: Board;
  readonly writer: GroupCommit<AcceptRow, AcceptResult>;
  readonly book: RequestBook;
  readonly lanes: LaneBook;
  readonly lockouts: Lockouts;
  readonly deadlines: () => Deadlines;
  readonly feed: Feed;
  readonly metrics: Metrics;
  /** An arrival was refused, or matched nothing; it is on record. */
  readonly onRefused: (row: AcceptRow, refusal: RelayError, outcome: "refused" | "unmatched") => void;
  readonly situationOf: (channel: ChannelId) => Situation;
  readonly commitWaitMs: number;
}

/** Takes one intent; resolves once its request is durable and its lanes have it. */
export type Accept = (intent: Intent, asker: Asker) => Promise<OpenRequest | Repeated>;

/** The same call was made before: nothing was sent, and this is the request that it made then. */
interface Repeated {
  readonly original: RequestId;
}

/** What the service itself orders, by a rule that somebody has set. */
interface Decree {
  readonly orders: readonly Order[];
  readonly inlet: DeadlineWhy | "power-up";
  readonly target: string;
  readonly action: string;
  /** The deadline that it carries out. */
  readonly deadlineOf: string | null;
}

export interface AcceptDesk {
  /**
   * Rejections: the refusal itself, once it is journaled, with `request` among its facts; service-busy when
   * nothing was taken; journal-unavailable when nobody knows; wrong-key when the key was revoked meanwhile.
   */
  readonly accept: Accept;
  /** Journals an arrival that asks nothing that could be done. Rejects with the refusal, or as `accept` does. */
  readonly decline: (intent: Intent, asker: Asker, refusal: RelayError) => Promise<never>;
  /** Resolves once it is durable. */
  readonly decree: (decree: Decree) => Promise<void>;
}

/** Who asks where nobody does. */
const SERVICE_NAME = "Bold Relay";

export function createAccept(parts: AcceptParts): AcceptDesk {
  const {
    clock,
    board,
    writer,
    book,
    lanes,
    lockouts,
    deadlines,
    feed,
    metrics,
    situationOf,
    commitWaitMs,
    onRefused,
  } = parts;
  const turnstile = new Turnstile();

  /** Hands a row to the journal; what it ordered joins its lanes even if its asker was told meanwhile that nobody knows. */
  async function keep(row: AcceptRow, orders: readonly Order[]): Promise<OpenRequest | Repeated> {
    const channels = orders.map(({ channel }) => channel.id);
    turnstile.enter(channels);
    try {
      failHere("before-accept-commit");
      const result = await writer.enqueue(row);
      failHere("after-accept-commit");
      if (result.kept) return launch(row, orders, result.seqs);
      if (result.original === null) throw new RelayError("wrong-key");
      if (!result.sameBody) throw new RelayError("repeat-key-reused", { request: result.original });
      return { original: result.original as RequestId };
    } finally {
      turnstile.leave(channels);
    }
  }

  function launch(row: AcceptRow, orders: readonly Order[], seqs: readonly number[]): OpenRequest {
    const open = book.open({ ...row, id: row.id as RequestId, refusal: null });
    // All of them before the first event: the request is over when all that it has are.
    const commands = orders.map((order, index) => {
      const command = newCommand(orderOf(row, order, index, seqs[index] ?? 0), clock.now());
      book.update(command);
      return command;
    });
    for (const [index, command] of commands.entries()) {
      const doom = orders[index]?.doomed ?? doomOf(command.channel);
      if (doom) lanes.refuse(command, doom);
      else lanes.dispatch(command.channel, { type: "accept", command });
      const deadline = row.commands[index]?.deadline;
      if (deadline)
        deadlines().add({ ...deadline, commandId: command.id, channelId: command.channel, seq: command.seq });
    }
    return open;
  }

  /** What came over the channel while the command was being journaled. */
  function doomOf(channel: ChannelId): Doom | null {
    if (!board.snapshot.byId.has(channel)) return "removed";
    return lockouts.of(channel) ? "locked-out" : null;
  }

  async function refuse(row: AcceptRow, refusal: RelayError, outcome: "refused" | "unmatched"): Promise<Repeated> {
    const refused = { ...row, outcome, refusal: { code: refusal.code, facts: refusal.facts } };
    const kept = await withTime(writer.enqueue(refused), commitWaitMs, () => unknown(row));
    if (!kept.kept) {
      if (kept.original === null) throw new RelayError("wrong-key");
      if (!kept.sameBody) throw new RelayError("repeat-key-reused", { request: kept.original });
      return { original: kept.original as RequestId };
    }
    metrics.requestEnded(row.inlet, outcome);
    onRefused(row, refusal, outcome);
    feed.tell({ event: { name: "request", data: { id: row.id, outcome } }, sites: null });
    throw new RelayError(refusal.code, { ...refusal.facts, request: row.id });
  }

  /** Decides when nothing else can come between, and hands the row to the journal in the same moment. */
  async function decideAndKeep(row: AcceptRow, wished: readonly Part[], bundle: Bundle | null) {
    const touched = touchedBy(wished);
    const open = dependsOnOthers(wished) ? await turnstile.alone(touched) : null;
    // Looked at until the very moment of deciding: nobody may shut a channel in between.
    while (open === null && !turnstile.isOpen(touched)) await turnstile.pass(touched);
    let kept: Promise<OpenRequest | Repeated>;
    try {
      const orders = decide(board.snapshot, wished, bundle, situationOf);
      kept = keep({ ...row, commands: orders.map((order) => commandRow(order, row)) }, orders);
    } catch (error) {
      if (!(error instanceof RelayError)) throw error;
      kept = refuse(row, error, "refused");
    } finally {
      open?.();
    }
    return withTime(kept, commitWaitMs, () => unknown(row));
  }

  /** The channels of a request, with those that are interlocked with them. */
  function touchedBy(wished: readonly Part[]): ChannelId[] {
    return wished.flatMap(({ channel: { id } }) => {
      const interlocks = board.snapshot.interlocks.get(id);
      return interlocks ? [id, ...interlocks.flatMap(({ channels }) => channels)] : [id];
    });
  }

  function dependsOnOthers(wished: readonly Part[]): boolean {
    return wished.some(
      ({ wish, channel }) =>
        wish.asks !== "to" || !kindOf(channel.kind).repeatable || board.snapshot.interlocks.has(channel.id),
    );
  }

  return {
    accept: async (intent, asker) => {
      const row = rowOf(newId(), clock.now(), intent, asker);
      const guarded = guard(board.snapshot, intent, asker);
      if (guarded.parts === null) return refuse(row, guarded.refusal, guarded.outcome);
      return decideAndKeep(row, guarded.parts, guarded.bundle);
    },

    decline: async (intent, asker, refusal) => {
      const outcome = refusal.code === "going-round" ? "refused" : "unmatched";
      await refuse(rowOf(newId(), clock.now(), intent, asker), refusal, outcome);
      throw refusal;
    },

    decree: async ({ orders, inlet, target, action, deadlineOf }) => {
      const asker: Asker = { inlet, name: SERVICE_NAME, sites: null, keyId: null };
      const intent: Intent = { target, action, value: null, forMs: null, until: null, repeatKey: null };
      const row = rowOf(newId(), clock.now(), intent, asker);
      const commands = orders.map((order) => commandRow(order, row));
      const channels = orders.map(({ channel }) => channel.id);
      while (!turnstile.isOpen(channels)) await turnstile.pass(channels);
      await keep({ ...row, commands, deadlineOf }, orders);
    },
  };
}

function unknown(row: AcceptRow): RelayError {
  return new RelayError("journal-unavailable", { request: row.id });
}

/** What a command orders, from what is durable of it and the channel as it is configured now. */
function orderOf(row: AcceptRow, order: Order, index: number, seq: number): CommandOrder {
  const id = row.commands[index]?.id as CommandId;
  return {
    ...commandTerms(order.channel, { ...order, id }),
    requestId: row.id as RequestId,
    seq,
    askedAt: row.askedAt,
  };
}

type Terms = Pick<Order, "to" | "urgent" | "forMs" | "clearWithinMs"> & { readonly id: CommandId };

/** What a command carries beside its place in the journal. The same for a new one and one found after a restart. */
export function commandTerms(
  channel: Order["channel"],
  { id, to, urgent, forMs, clearWithinMs }: Terms,
): Omit<CommandOrder, "requestId" | "seq" | "askedAt"> {
  const { kind, codec, topics } = channel;
  const writing = writingFor(channel, id, to, forMs);
  return {
    id,
    channel: channel.id,
    to,
    policy: policyFor(channel, to),
    urgent,
    once: !kindOf(kind).repeatable,
    forMs,
    anonymous: topics.done !== null && !codec.namesCommand && to !== READ,
    clearWithinMs,
    readsBack: readsBack(channel, to),
    wire: { topic: writing?.topic ?? "", payload: writing ? payloadText(writing.payload) : "" },
  };
}

function commandRow(order: Order, { askedAt, forMs }: AcceptRow): CommandRow {
  const { channel, to, urgent, clearWithinMs, doomed } = order;
  // A device that times itself has the first word: the service only sees to it that it kept it.
  const patienceMs = channel.policy.timesItself ? channel.policy.ackWithinMs : 0;
  const lastsMs = order.forMs === null ? null : order.forMs + patienceMs;
  const deadline =
    lastsMs === null || doomed ? null : { dueAt: askedAt + lastsMs, forMs: lastsMs, why: whyOff(order, forMs) };
  return {
    id: newId(),
    channelId: channel.id,
    to: valueText(to),
    urgent,
    forMs: order.forMs,
    clearWithinMs,
    doom: doomed satisfies Doom | null,
    deadline,
  };
}

function whyOff({ channel, forMs }: Order, askedMs: number | null): DeadlineWhy {
  if (forMs === askedMs) return "timed off";
  return forMs === channel.policy.holdForMs ? "end of hold" : "auto-off";
}

function rowOf(id: string, askedAt: number, intent: Intent, asker: Asker): AcceptRow {
  return {
    id,
    askedAt,
    inlet: asker.inlet,
    asker: asker.name,
    keyId: asker.keyId,
    target: intent.target,
    action: intent.action,
    value: intent.value,
    forMs: intent.forMs,
    said: intent.said ?? null,
    traceparent: intent.traceparent ?? null,
    idempotency: idempotencyOf(intent, asker),
    outcome: null,
    refusal: null,
    commands: [],
    deadlineOf: null,
  };
}

/** Keys of different askers never meet: each has its own, by API key or by name. */
function idempotencyOf({ target, action, value, forMs, until, repeatKey }: Intent, { inlet, keyId, name }: Asker) {
  if (repeatKey === null) return null;
  const bodySha256 = hash("sha256", JSON.stringify([target, action, value, forMs, until, name]));
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
