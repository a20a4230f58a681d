/** First stage: what the database has is read into memory, and what writes to the database stands ready. */
import { type ChannelEntry, type ChannelId, DAY_MS, shippedProfiles, smallestIdAt } from "@bold-relay/core";
import { AuditLog } from "../auth/audit-log.ts";
import { Answers } from "../delivery/answers.ts";
import { Deadlines } from "../delivery/deadlines.ts";
import { IssuedIds } from "../delivery/issued-ids.ts";
import { createAdopt } from "../model/adopt-model.ts";
import { ModelFollow } from "../model/model-follow.ts";
import { eachInPieces } from "../platform/in-pieces.ts";
import { createTurns } from "../platform/in-turn.ts";
import { Metrics } from "../platform/metrics.ts";
import { RequestQueries } from "../requests/queries.ts";
import { Shards } from "../requests/shards.ts";
import { Board } from "../state/board.ts";
import { DayTally } from "../state/day-tally.ts";
import { InputFeed } from "../state/input-feed.ts";
import { Feed } from "../state/live-feed.ts";
import { Lockouts } from "../state/lockouts.ts";
import { OpenRequests } from "../state/open-requests.ts";
import { PresenceLog } from "../state/presence-log.ts";
import { readAllStates, readStatesAgain } from "../state/read-states.ts";
import { RecentStatistics } from "../state/recent-statistics.ts";
import { shardOfChannel } from "../state/site-shards.ts";
import { WayCounter } from "../state/way-counter.ts";
import { type DeadlineRecord, dropDeadlines, findDeadlines } from "../store/deadlines.ts";
import { countByMinute } from "../store/find-requests.ts";
import { findActiveLockouts } from "../store/lockouts.ts";
import { addProfiles } from "../store/model.ts";
import { findModelVersions } from "../store/model-versions.ts";
import { Writers } from "../store/writers.ts";
import { channelView } from "../views/channel-view.ts";
import type { LeaderDeps } from "./leader-deps.ts";
import type { StopStack } from "./stop-stack.ts";

export type State = Awaited<ReturnType<typeof openState>>;

export async function openState({ log, clock, pool, backend, takeModel, heldLeases }: LeaderDeps, stack: StopStack) {
  await addProfiles(pool, shippedProfiles);
  const versions = await findModelVersions(pool);
  const board = await readBoard();
  // Counted before this instance writes anything: what comes from then on is counted as it goes.
  const tally = new DayTally(clock);
  tally.remember(await countByMinute(pool, smallestIdAt(clock.now() - DAY_MS), null));
  const recent = new RecentStatistics(clock);
  const ways = new WayCounter(pool, clock, log);
  await stack.start("uses of routes", () => ways.start(), { drain: () => ways.stop(), abandon: () => ways.abandon() });
  const metrics = new Metrics();
  const writers = new Writers({ backend, log, onCommit: (writer, ms) => metrics.committed(writer, ms) });
  const shards = new Shards(board);
  const epochOf = (site: string) => shards.epochOf(site);
  const lockouts = new Lockouts({ clock, epochOf, board }, await findActiveLockouts(pool));
  const deadlines = new Deadlines(board, clock, await readDeadlines(isOfRestored));
  const feed = new Feed({
    describe(channel) {
      const entry = board.snapshot.byId.get(channel);
      if (!entry) return null;
      const data = channelView(entry, { board, lockouts, deadlines });
      return { event: { name: "channel", data }, sites: [entry.site.slug] };
    },
    siteOf: (channel) => board.snapshot.byId.get(channel)?.site.slug ?? null,
  });
  stack.onStop("live feed", { drain: () => {}, abandon: () => feed.close() });
  lockouts.events.on("changed", (channel) => feed.channelChanged(channel));
  const inModelTurn = createTurns();
  const adopt = createAdopt({ board, lockouts, shards, feed, log });
  const follow = new ModelFollow({ pool, board, adopt, inTurn: inModelTurn }, versions);
  const answers = new Answers();
  stack.onStop("answers", { drain: () => {}, abandon: () => answers.wakeAll() });
  const openRequests = new OpenRequests();
  const inputs = new InputFeed(log);
  const queries = new RequestQueries(clock, pool, board, openRequests);
  const [issued, presences, audit] = [new IssuedIds(), new PresenceLog(clock), new AuditLog(pool, log)];
  return {
    board,
    tally,
    recent,
    ways,
    metrics,
    writers,
    shards,
    lockouts,
    deadlines,
    feed,
    inputs,
    answers,
    openRequests,
    queries,
    issued,
    presences,
    audit,
    inModelTurn,
    adopt,
    follow,
    readAgain,
    announce,
    giveUpWriting,
  };

  function isOfRestored(channel: ChannelId): boolean {
    const shard = shardOfChannel(board.snapshot, channel);
    return heldLeases.some((one) => one.restored && one.shard === shard);
  }

  async function readBoard(): Promise<Board> {
    const read = new Board(await takeModel(), clock);
    await readAllStates(pool, read);
    return read;
  }

  /** Whoever shows these channels looks at them anew. */
  function announce(isOwn: (channel: ChannelId) => boolean): Promise<void> {
    return eachInPieces(board.snapshot.channels, ({ id }) => void (isOwn(id) && feed.channelChanged(id)));
  }

  /** What another instance has written of these channels until now counts: it looked after them. Nobody is told so far. */
  async function readAgain(isOwn: (channel: ChannelId) => boolean, isRestored: boolean): Promise<void> {
    const own: ChannelEntry[] = [];
    await eachInPieces(board.snapshot.channels, (entry) => void (isOwn(entry.id) && own.push(entry)));
    await readStatesAgain(
      pool,
      board,
      own.map(({ id }) => id),
    );
    const standing = await readDeadlines((channel) => isRestored && isOwn(channel));
    const locked = await findActiveLockouts(pool);
    for (const { id } of own) deadlines.forget(id);
    deadlines.remember(standing.filter(({ channelId }) => isOwn(channelId)));
    // Of other channels a lock-out may hold here that is not in the database so far.
    lockouts.follow(locked, (id) => !isOwn(id));
    recount(new Set(own.map(({ site }) => site.slug)));
  }

  /** What others have counted of these sites; nobody waits for it. */
  function recount(sites: ReadonlySet<string>): void {
    countByMinute(pool, smallestIdAt(clock.now() - DAY_MS), [...sites]).then(
      (counted) => tally.replace(sites, counted),
      (error: unknown) => log.debug({ err: error }, "the requests of the last day could not be counted"),
    );
  }

  /** After a restore nobody knows what happened since the backup: what is overdue is dropped, not carried out. */
  async function readDeadlines(isRestored: (channel: ChannelId) => boolean): Promise<DeadlineRecord[]> {
    const records = await findDeadlines(pool);
    const overdue = records.filter(({ channelId, dueAt }) => dueAt <= clock.now() && isRestored(channelId));
    if (overdue.length === 0) return records;
    await dropDeadlines(
      pool,
      overdue.map((record) => record.commandId),
    );
    return records.filter((record) => !overdue.includes(record));
  }

  function giveUpWriting(): void {
    writers.reply.abandon();
    for (const { writers: own } of shards.all) {
      own.accept.abandon();
      own.settle.abandon();
    }
  }
}
