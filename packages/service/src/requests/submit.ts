/** From an intent to an accepted request: match, resolve, guard, decide, journal, lane. Answers only what is durable. */
import {
  type Asker,
  type BlockReason,
  type Bundle,
  type ChannelId,
  type Command,
  type CommandId,
  commandOrder,
  decide,
  guard,
  type Intent,
  inletWay,
  kindOf,
  memberWay,
  newCommand,
  type Order,
  type Part,
  RelayError,
  type RequestId,
  ruleWay,
  type Situation,
} from "@bold-relay/core";
import type { Deadlines } from "../delivery/deadlines.ts";
import type { LaneRunner } from "../delivery/lane-runner.ts";
import type { RuleRequest } from "../delivery/rule.ts";
import type { Clock } from "../platform/clock.ts";
import { failHere } from "../platform/failpoint.ts";
import { newId } from "../platform/id.ts";
import type { Metrics } from "../platform/metrics.ts";
import type { Board } from "../state/board.ts";
import type { DayTally } from "../state/day-tally.ts";
import type { Feed } from "../state/live-feed.ts";
import type { Lockouts } from "../state/lockouts.ts";
import type { OpenRequest, OpenRequests } from "../state/open-requests.ts";
import type { WayCounter } from "../state/way-counter.ts";
import type { AcceptResult, AcceptRow } from "../store/accept-rows.ts";
import type { LeaseWriter } from "../store/group-commit.ts";
import { commandRow, type PendingRequest, recordOf, rowOf } from "./accept-row.ts";
import { ChannelLock } from "./channel-lock.ts";
import { RecentDeliveries } from "./recent-deliveries.ts";
import { withTime } from "./with-time.ts";

export interface SubmitDeps {
  readonly clock: Clock;
  readonly board: Board;
  readonly writer: LeaseWriter<AcceptRow, AcceptResult>;
  readonly openRequests: OpenRequests;
  readonly lanes: LaneRunner;
  readonly lockouts: Lockouts;
  readonly deadlines: Deadlines;
  readonly feed: Feed;
  readonly metrics: Metrics;
  readonly tally: DayTally;
  readonly ways: WayCounter;
  /** An arrival was refused, or matched nothing; it is on record. */
  readonly onRefused: (row: AcceptRow, refusal: RelayError, outcome: "refused" | "not-understood") => void;
  readonly situationOf: (channel: ChannelId) => Situation;
  readonly commitWaitMs: number;
  /** Whether another instance is to lead the shard. */
  readonly isClosed: () => boolean;
  /** Whether the lanes of a channel are elsewhere by now, or on their way there. */
  readonly isGone: (channel: ChannelId) => boolean;
}

/** Nothing was taken: the lanes of the site have gone to another shard in this moment. */
export class LanesMoved extends Error {}

/** Takes one intent; resolves once its request is durable and its lanes have it. */
export type Accept = (intent: Intent, asker: Asker) => Promise<OpenRequest | Repeated>;

/** The same call was made before: nothing was sent, and this is the request that it made then. */
interface Repeated {
  readonly original: RequestId;
}

export interface RequestSubmission {
  /**
   * Rejections: the refusal itself, once it is journaled, with `request` among its facts; service-busy when
   * nothing was taken; database-unavailable when nobody knows; wrong-key when the key was revoked meanwhile.
   */
  readonly accept: Accept;
  /** Journals an arrival that asks nothing that could be done. Rejects with the refusal, or as `accept` does. */
  readonly decline: (intent: Intent, asker: Asker, refusal: RelayError) => Promise<never>;
  /** Resolves once it is durable. */
  readonly submitForRule: (submitForRule: RuleRequest) => Promise<void>;
}

/** Who asks where nobody does. */
const SERVICE_NAME = "Bold Relay";
/** Of what an inlet declines, these were understood. */
const REFUSED: ReadonlySet<string> = new Set(["going-round", "not-permitted"]);

export function createAccept(deps: SubmitDeps): RequestSubmission {
  const {
    clock,
    board,
    writer,
    openRequests,
    lanes,
    lockouts,
    deadlines,
    feed,
    metrics,
    tally,
    ways,
    situationOf,
    commitWaitMs,
    onRefused,
    isClosed,
    isGone,
  } = deps;
  const channelLock = new ChannelLock();
  const deliveries = new RecentDeliveries();

  /** Hands a row to the journal; what it ordered joins its lanes even if its asker was told meanwhile that nobody knows. */
  async function keep(row: AcceptRow, orders: readonly Order[], way: string): Promise<OpenRequest | Repeated> {
    const channels = orders.map(({ channel }) => channel.id);
    channelLock.enter(channels);
    try {
      failHere("before-accept-commit");
      const result = await writer.enqueue(row);
      failHere("after-accept-commit");
      if (result.kept) {
        ways.used(way, channels, row.asker);
        return launch(row, orders, result.seqs);
      }
      return repeatedBy(row, result);
    } finally {
      channelLock.leave(channels);
    }
  }

  function launch(row: AcceptRow, orders: readonly Order[], seqs: readonly number[]): OpenRequest {
    const open = openRequests.open(recordOf(row));
    tally.asked(orders[0]?.channel.site.slug ?? null, row.askedAt, false);
    // All of them before the first event: the request is over when all that it has are.
    const commands = orders.map((order, index) => {
      const id = row.commands[index]?.id as CommandId;
      const byRule = row.requester === "rule";
      const place = { requestId: open.record.id, seq: seqs[index] ?? 0, askedAt: row.askedAt, byRule };
      const command = newCommand(
        commandOrder(order.channel, id, order, place, board.claimOf(order.channel.id)),
        clock.now(),
      );
      openRequests.update(command);
      return command;
    });
    for (let index = 0; index < commands.length; index += 1) {
      const command = commands[index] as Command;
      const blocked = orders[index]?.blocked ?? blockReasonOf(command.channel);
      if (blocked) lanes.refuse(command, blocked);
      else lanes.dispatch(command.channel, { type: "accept", command });
      const deadline = row.commands[index]?.deadline;
      if (deadline) deadlines.add({ ...deadline, commandId: command.id, channelId: command.channel, seq: command.seq });
    }
    return open;
  }

  /** What came over the channel while the command was being journaled. */
  function blockReasonOf(channel: ChannelId): BlockReason | null {
    if (!board.snapshot.byId.has(channel)) return "removed";
    return lockouts.of(channel) ? "locked-out" : null;
  }

  /** @param found the site of what was named; null: nothing was found, it belongs to those that its asker is held to */
  async function refuse(
    pending: PendingRequest,
    refusal: RelayError,
    outcome: "refused" | "not-understood",
    found: string | null,
  ): Promise<Repeated> {
    if (isClosed()) throw new LanesMoved();
    const site = found ?? onlyOf(pending.asker.sites);
    const row = rowOf(pending, { outcome, site, refusal: { code: refusal.code, facts: refusal.facts } });
    const written = writer.enqueue(row);
    pending.onKept?.(written.then(({ kept }) => kept));
    const kept = await withTime(written, commitWaitMs, () => unknown(pending));
    if (!kept.kept) return repeatedBy(row, kept);
    metrics.requestEnded(row.inlet, outcome);
    ways.used(wayOf(pending.intent, pending.asker), [], row.asker);
    tally.asked(site, row.askedAt, true);
    onRefused(row, refusal, outcome);
    feed.tell({ event: { name: "request", data: { id: row.id, outcome } }, sites: site === null ? null : [site] });
    throw new RelayError(refusal.code, { ...refusal.facts, request: row.id });
  }

  /** Decides when nothing else can come between, and hands the row to the journal in the same moment. */
  async function decideAndKeep(pending: PendingRequest, wished: readonly Part[], bundle: Bundle | null) {
    const touched = touchedBy(wished);
    const open = dependsOnOthers(wished) ? await channelLock.alone(touched) : null;
    // Looked at until the very moment of deciding: nobody may shut a channel in between.
    while (open === null && !channelLock.isOpen(touched)) await channelLock.pass(touched);
    let kept: Promise<OpenRequest | Repeated>;
    try {
      if (touched.some(isGone)) throw new LanesMoved();
      const orders = decide(board.snapshot, wished, bundle, situationOf);
      kept = keep(
        rowOf(pending, { commands: orders.map((order) => commandRow(order, pending)) }),
        orders,
        wayOf(pending.intent, pending.asker),
      );
      pending.onKept?.(kept.then((result) => !("original" in result)));
    } catch (error) {
      if (!(error instanceof RelayError)) throw error;
      kept = refuse(pending, error, "refused", wished[0]?.channel.site.slug ?? null);
    } finally {
      open?.();
    }
    return withTime(kept, commitWaitMs, () => unknown(pending));
  }

  /** The channels of a request, with those that are interlocked with them. */
  function touchedBy(wished: readonly Part[]): ChannelId[] {
    const touched: ChannelId[] = [];
    for (const { channel } of wished) {
      touched.push(channel.id);
      for (const { channels } of board.snapshot.interlocks.get(channel.id) ?? []) touched.push(...channels);
    }
    return touched;
  }

  function dependsOnOthers(wished: readonly Part[]): boolean {
    return wished.some(
      ({ wish, channel }) =>
        wish.asks !== "to" ||
        !kindOf(channel.kind).repeatable ||
        channel.drive !== "set" ||
        board.snapshot.interlocks.has(channel.id),
    );
  }

  /** What a broker brings again is not taken again. */
  async function onlyOnce(
    intent: Intent,
    asker: Asker,
    take: (pending: PendingRequest) => Promise<OpenRequest | Repeated>,
  ): Promise<OpenRequest | Repeated> {
    const pending = { id: newId(), askedAt: clock.now(), intent, asker };
    if (!intent.delivery) return take(pending);
    return deliveries.once(
      intent.delivery,
      pending.id as RequestId,
      (request, isKept) => withTime(isKept, commitWaitMs, () => unknown({ id: request })),
      (onKept) => take({ ...pending, onKept }),
    );
  }

  return {
    accept: (intent, asker) =>
      onlyOnce(intent, asker, async (pending) => {
        const guarded = guard(board.snapshot, intent, asker);
        if (guarded.parts === null) return refuse(pending, guarded.refusal, guarded.outcome, guarded.site);
        return decideAndKeep(pending, guarded.parts, guarded.bundle);
      }),

    decline: async (intent, asker, refusal) => {
      const outcome = REFUSED.has(refusal.code) ? "refused" : "not-understood";
      await onlyOnce(intent, asker, (pending) => refuse(pending, refusal, outcome, null));
      throw refusal;
    },

    submitForRule: async ({ orders, inlet, target, action, deadlineOf }) => {
      const rule = { requester: "rule", memberId: null, keyId: null } as const;
      const asker: Asker = { ...rule, inlet, name: SERVICE_NAME, sites: null };
      const intent: Intent = { target, action, value: null, forMs: null, until: null, repeatKey: null };
      const pending = { id: newId(), askedAt: clock.now(), intent, asker };
      const commands = orders.map((order) => commandRow(order, pending));
      const channels = orders.map(({ channel }) => channel.id);
      while (!channelLock.isOpen(channels)) await channelLock.pass(channels);
      if (channels.some(isGone)) throw new LanesMoved();
      await keep(rowOf(pending, { commands, deadlineOf }), orders, wayOf(intent, asker));
    },
  };
}

/** Under which a request is counted: what caught it, or who asked. */
export function wayOf({ way }: Pick<Intent, "way">, { memberId, requester, inlet }: Asker): string {
  if (memberId !== null) return memberWay(memberId);
  return requester === "rule" ? ruleWay(inlet) : (way ?? inletWay(inlet, null));
}

function onlyOf(sites: Asker["sites"]): string | null {
  return sites?.length === 1 ? (sites[0] ?? null) : null;
}

/** @throws RelayError wrong-key or not-permitted where the right ended between the look at it and the commit; repeat-key-reused */
function repeatedBy({ memberId, asker }: AcceptRow, result: Exclude<AcceptResult, { kept: true }>): Repeated {
  if (result.original !== null) {
    if (!result.sameBody) throw new RelayError("repeat-key-reused", { request: result.original });
    return { original: result.original as RequestId };
  }
  if (memberId === null) throw new RelayError("wrong-key");
  throw new RelayError("not-permitted", { why: `What ${asker} may do was changed just now` });
}

function unknown({ id }: Pick<PendingRequest, "id">): RelayError {
  return new RelayError("database-unavailable", { request: id });
}
