/** The whole service, joined from its parts. Started by main.ts, and by tests in their own process. */
import type { RequestView } from "@bold-relay/api";
import { type Asker, buildSnapshot, type Intent, RelayError, type RequestId } from "@bold-relay/core";
import { KeyRing } from "./auth/key-ring.ts";
import { WrongKeys } from "./auth/wrong-keys.ts";
import { type Clock, steadyClock } from "./clock.ts";
import { type Config, limits } from "./config/config.ts";
import { createApp } from "./http/app.ts";
import { openDoor } from "./http/door.ts";
import { asRelayError } from "./http/problem.ts";
import { createWebInlet } from "./inlets/web.ts";
import { Link } from "./link/link.ts";
import { Feed } from "./live/feed.ts";
import type { Log } from "./log.ts";
import { createAccept } from "./pipeline/accept.ts";
import { Answers, isThere } from "./pipeline/answers.ts";
import { Board } from "./pipeline/board.ts";
import { LaneBook } from "./pipeline/lane-book.ts";
import { Lockouts } from "./pipeline/lockouts.ts";
import { recover } from "./pipeline/recover.ts";
import { RequestBook } from "./pipeline/request-book.ts";
import { Settle } from "./pipeline/settle.ts";
import { Sweep } from "./pipeline/sweep.ts";
import { Status } from "./status.ts";
import { type AcceptResult, type AcceptRow, acceptRequests, forgetOldCalls } from "./store/accept-requests.ts";
import { findLastCommands, findObserved } from "./store/channel-state.ts";
import { GroupCommit } from "./store/group-commit.ts";
import { findHeldLockouts } from "./store/lockouts.ts";
import { findChannels } from "./store/model.ts";
import { findOpenCommands } from "./store/open-commands.ts";
import { createPool } from "./store/pool.ts";
import { prepareJournal } from "./store/prepare.ts";
import { type SettleRow, settleCommands } from "./store/settle-commands.ts";
import { channelView } from "./view/channel-view.ts";
import { Ledger } from "./view/ledger.ts";
import { requestView } from "./view/request-view.ts";

export interface RunningService {
  /** "http://127.0.0.1:4180" */
  readonly url: string;
  /** Resolves once the broker link is up for the first time. */
  readonly linked: Promise<void>;
  /** Takes nothing new, finishes what is being written, closes everything. */
  stop(): Promise<void>;
}

export async function startService(config: Config, log: Log, clock: Clock = steadyClock): Promise<RunningService> {
  const door = await openDoor(config);
  const pool = createPool(config.databaseUrl, (error) => log.warn({ err: error }, "an idle database connection broke"));
  await prepareJournal(pool, log);
  const snapshot = buildSnapshot(await findChannels(pool));
  const board = new Board(snapshot);
  for (const { channelId, ...observed } of await findObserved(pool)) board.setObserved(channelId, observed);
  for (const record of await findLastCommands(pool)) board.setLastCommand(record);

  const writerOptions = { batchRows: limits.batchRows, log };
  const acceptWriter = new GroupCommit<AcceptRow, AcceptResult>({
    ...writerOptions,
    name: "accept",
    queueLimit: limits.acceptQueue,
    write: (rows, repeated) => acceptRequests(pool, rows, repeated),
  });
  const settleWriter = new GroupCommit<SettleRow, void>({
    ...writerOptions,
    name: "settle",
    queueLimit: limits.settleQueue,
    write: async (rows) => {
      await settleCommands(pool, rows);
      return rows.map(() => undefined);
    },
  });
  const feed = new Feed((channel) => {
    const entry = snapshot.byId.get(channel);
    return entry ? { name: "channel", data: channelView(entry, board, lockouts) } : null;
  });
  const answers = new Answers();
  const book = new RequestBook();
  const settle: Settle = new Settle({
    clock,
    log,
    board,
    book,
    feed,
    answers,
    writer: settleWriter,
    lanes: () => lanes,
  });
  const lanes: LaneBook = new LaneBook({
    clock,
    snapshot,
    link: () => link,
    onChanged: (command) => settle.changed(command),
  });
  const lockouts: Lockouts = new Lockouts(
    { clock, pool, snapshot, feed, lanes: () => lanes },
    await findHeldLockouts(pool),
  );
  let onLinked: () => void = () => {};
  const linked = new Promise<void>((resolve) => {
    onLinked = resolve;
  });
  const link: Link = new Link(
    {
      url: config.brokerUrl,
      username: config.brokerUser,
      password: config.brokerPassword,
      clientId: config.brokerClientId,
      window: limits.publishWindow,
      log,
    },
    {
      onUp: () => {
        lanes.dispatchAll({ type: "wake" });
        status.tellChanges();
        onLinked();
      },
      onDown: () => {
        lanes.dispatchAll({ type: "lost" });
        status.tellChanges();
      },
      onMessage: (topic, payload, live) => settle.receive(topic, payload, live),
      onRoom: () => lanes.dispatchAll({ type: "wake" }),
    },
  );
  const status: Status = new Status({ clock, pool, link, board, feed, book, writers: [acceptWriter, settleWriter] });
  const ledger = new Ledger(clock, pool, board, book);
  const accept = createAccept({
    clock,
    snapshot,
    writer: acceptWriter,
    book,
    lanes,
    lockouts,
    feed,
    commitWaitMs: limits.commitWaitMs,
  });
  const ask = async (intent: Intent, asker: Asker, waitMs: number): Promise<RequestView> => {
    const accepted = await accept(intent, asker);
    if ("original" in accepted) return answerAgain(accepted.original, intent, waitMs);
    const open = accepted;
    if (waitMs > 0 && !isThere(open, intent.until)) await answers.wait(open.record.id, intent.until, waitMs);
    return requestView(open.record, [...open.commands.values()], board);
  };

  /** A repeated call is answered with what has become of the first one by now. */
  async function answerAgain(original: RequestId, { until }: Intent, waitMs: number): Promise<RequestView> {
    const open = book.get(original);
    if (open && waitMs > 0 && !isThere(open, until)) await answers.wait(original, until, waitMs);
    const request = await ledger.view(original);
    if (request.refusal) throw new RelayError(request.refusal.code, await ledger.refusalFacts(original));
    return request;
  }

  recover(await findOpenCommands(pool), { clock, log, snapshot, book, lanes, settle });
  lockouts.stopHeldLanes();
  link.start(snapshot.filters);
  status.start();
  const sweep = new Sweep(lanes, settle, () => forgetOldCalls(pool), log);
  sweep.start();
  const keyRing = new KeyRing(pool);
  const wrongKeys = new WrongKeys();
  door.open(
    createWebInlet({
      ask,
      holderOf: (hash) => keyRing.holderOf(hash),
      countWrongKey: (req) => wrongKeys.count(req),
      asError: (error) => asRelayError(error, log),
    }),
    createApp({ config, clock, log, pool, board, feed, ledger, lockouts, status, ask }),
  );
  log.info({ url: door.url, channels: snapshot.channels.length }, "taking requests");

  async function shutDown(): Promise<void> {
    log.info("stopping");
    answers.wakeAll();
    await door.close();
    await acceptWriter.stop();
    sweep.stop();
    status.stop();
    wrongKeys.stop();
    await link.stop();
    settle.saveProgress(0);
    const giveUp = setTimeout(() => {
      acceptWriter.abandon();
      settleWriter.abandon();
    }, limits.drainMs);
    await settleWriter.stop();
    clearTimeout(giveUp);
    await pool.end();
    log.info("stopped");
  }

  let stopped: Promise<void> | null = null;
  const stop = () => {
    stopped ??= shutDown();
    return stopped;
  };
  return { url: door.url, linked, stop };
}
