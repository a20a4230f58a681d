/** First stage: what the database has is read into memory, and what writes to the database stands ready. */
import { DAY_MS, shippedProfiles, smallestIdAt } from "@bold-relay/core";
import { AuditLog } from "../auth/audit-log.ts";
import { Answers } from "../delivery/answers.ts";
import { Deadlines } from "../delivery/deadlines.ts";
import { IssuedIds } from "../delivery/issued-ids.ts";
import { Metrics } from "../platform/metrics.ts";
import { RequestQueries } from "../requests/queries.ts";
import { Board } from "../state/board.ts";
import { DayTally } from "../state/day-tally.ts";
import { InputFeed } from "../state/input-feed.ts";
import { Feed } from "../state/live-feed.ts";
import { Lockouts } from "../state/lockouts.ts";
import { OpenRequests } from "../state/open-requests.ts";
import { PresenceLog } from "../state/presence-log.ts";
import { RecentStatistics } from "../state/recent-statistics.ts";
import { WayCounter } from "../state/way-counter.ts";
import { findLastCommands, findObserved, findTaken } from "../store/channel-state.ts";
import { type DeadlineRecord, dropDeadlines, findDeadlines } from "../store/deadlines.ts";
import { countByMinute } from "../store/find-requests.ts";
import { findActiveLockouts } from "../store/lockouts.ts";
import { addProfiles } from "../store/model.ts";
import { createWriters } from "../store/writers.ts";
import { channelView } from "../views/channel-view.ts";
import type { LeaderDeps } from "./leader-deps.ts";
import type { StopStack } from "./stop-stack.ts";

export type State = Awaited<ReturnType<typeof openState>>;

export async function openState(
  { config, log, clock, pool, backendFor, heldLease, takeModel }: LeaderDeps,
  stack: StopStack,
) {
  const board = await readBoard();
  // Counted before this instance writes anything: what comes from then on is counted as it goes.
  const tally = new DayTally(clock);
  tally.remember(await countByMinute(pool, smallestIdAt(clock.now() - DAY_MS)));
  const recent = new RecentStatistics(clock);
  const ways = new WayCounter(pool, clock, log);
  await stack.start("uses of routes", () => ways.start(), { drain: () => ways.stop(), abandon: () => ways.abandon() });
  const metrics = new Metrics();
  const writers = createWriters({
    backend: backendFor(heldLease.epoch),
    log,
    onLeaseLost: heldLease.end,
    onCommit: (writer, ms) => metrics.committed(writer, ms),
  });
  // Each is drained where what it writes for is over; see the stages below.
  stack.onStop("writers", { drain: () => {}, abandon: giveUpWriting });
  const lockouts = new Lockouts({ clock, pool, epoch: heldLease.epoch, board }, await findActiveLockouts(pool));
  const deadlines = new Deadlines(board, clock, await readDeadlines());
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
    giveUpWriting,
  };

  async function readBoard(): Promise<Board> {
    await addProfiles(pool, shippedProfiles);
    const read = new Board(await takeModel(), clock);
    for (const record of await findObserved(pool)) read.remember(record);
    for (const record of await findLastCommands(pool)) read.setEarlierCommand(record);
    for (const { channelId, ...taken } of await findTaken(pool)) read.setTaken(channelId, taken);
    return read;
  }

  /** After a restore nobody knows what happened since the backup: what is overdue is dropped, not carried out. */
  async function readDeadlines(): Promise<DeadlineRecord[]> {
    const records = await findDeadlines(pool);
    if (!config.restored) return records;
    const overdue = records.filter((record) => record.dueAt <= clock.now());
    await dropDeadlines(
      pool,
      overdue.map((record) => record.commandId),
    );
    return records.filter((record) => !overdue.includes(record));
  }

  function giveUpWriting(): void {
    for (const writer of Object.values(writers)) writer.abandon();
  }
}
