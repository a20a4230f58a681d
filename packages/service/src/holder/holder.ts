/** The instance that holds the lanes: its parts, joined, from taking up what the journal has open to giving it back. */
import type { RequestListener } from "node:http";
import {
  buildSnapshot,
  type ChannelEntry,
  type ChannelId,
  type Situation,
  shippedProfiles,
  smallestIdAt,
  traceparentFor,
  valueText,
} from "@bold-relay/core";
import { Attention } from "../attention/attention.ts";
import { attentionSight } from "../attention/sight.ts";
import { AuditLog } from "../audit-log.ts";
import { KeyRing } from "../auth/key-ring.ts";
import { OpenStreams } from "../auth/open-streams.ts";
import { PasswordAgain } from "../auth/password-again.ts";
import { WrongKeys } from "../auth/wrong-keys.ts";
import { BrokerGate } from "../broker-gate.ts";
import type { Clock } from "../clock.ts";
import { Proofs } from "../commissioning/proofs.ts";
import { type BrokerAccess, brokerAccess } from "../config/broker-access.ts";
import { type Config, limits } from "../config/config.ts";
import { mayListenAt } from "../config/places.ts";
import { BrokerAdmin } from "../credentials/broker-admin.ts";
import { Credentials } from "../credentials/credentials.ts";
import { DayTally } from "../day-tally.ts";
import { DescriptionChecker } from "../description-check/description-checker.ts";
import { FigureBook } from "../figures.ts";
import { createApp } from "../http/app.ts";
import { Guard } from "../http/permissions.ts";
import { asRelayError } from "../http/problem.ts";
import { createCalls } from "../inlets/calls.ts";
import { createFront } from "../inlets/front.ts";
import { InletHouse } from "../inlets/house.ts";
import type { Told } from "../inlets/inlet.ts";
import { InletCounter } from "../inlets/inlet-counter.ts";
import { Link } from "../link/link.ts";
import { Feed } from "../live/feed.ts";
import type { Log } from "../log.ts";
import { Metrics } from "../metrics.ts";
import { changeNotice, outcomeNotice, refusedNotice } from "../notices/event.ts";
import { Notices } from "../notices/notices.ts";
import { createAccept } from "../pipeline/accept.ts";
import { Answers } from "../pipeline/answers.ts";
import { Board } from "../pipeline/board.ts";
import { createClose } from "../pipeline/close.ts";
import { Deadlines } from "../pipeline/deadlines.ts";
import { EvidenceHandler } from "../pipeline/evidence-handler.ts";
import { IssuedIds } from "../pipeline/issued-ids.ts";
import { LaneBook } from "../pipeline/lane-book.ts";
import { Lockouts } from "../pipeline/lockouts.ts";
import { PowerUps } from "../pipeline/power-ups.ts";
import { PresenceLog } from "../pipeline/presence-log.ts";
import { recover } from "../pipeline/recover.ts";
import { Remodel } from "../pipeline/remodel.ts";
import { RequestBook } from "../pipeline/request-book.ts";
import { Settle } from "../pipeline/settle.ts";
import { Sweep } from "../pipeline/sweep.ts";
import { Status } from "../status.ts";
import { findLastCommands, findObserved, findTaken } from "../store/channel-state.ts";
import { type DeadlineRecord, dropDeadlines, findDeadlines } from "../store/deadlines.ts";
import { findBoots } from "../store/device-boots.ts";
import { countByMinute } from "../store/find-requests.ts";
import { isLinkLive } from "../store/inlet-links.ts";
import { findInletRows } from "../store/inlets.ts";
import { findHeldLockouts } from "../store/lockouts.ts";
import { addProfiles, findChannels, findSites } from "../store/model.ts";
import { findOpenCommands } from "../store/open-commands.ts";
import type { Pool } from "../store/pool.ts";
import { createWriters, type Keeping } from "../store/writers.ts";
import { startTranslation, translationPlan } from "../translation.ts";
import { createAsk } from "../view/ask.ts";
import { channelStates, knownState } from "../view/channel-states.ts";
import { channelView } from "../view/channel-view.ts";
import { Ledger } from "../view/ledger.ts";
import { Wire } from "../wire/wire.ts";
import type { Tenure } from "./lease.ts";
import { tidy } from "./tidy.ts";

export interface HolderParts {
  readonly config: Config;
  readonly log: Log;
  readonly clock: Clock;
  readonly pool: Pool;
  /** What the writers write to. */
  readonly keeping: (epoch: number) => Keeping;
  readonly tenure: Tenure;
  /** Where this instance listens. */
  readonly url: string;
}

export interface Holder {
  /** Answers everything that can be asked of the service. */
  readonly serve: RequestListener;
  /** Resolves once the broker link is up for the first time. */
  readonly linked: Promise<void>;
  /** Answers everybody who waits, with what is known. */
  wakeAskers(): void;
  /** Finishes what is being written, and closes everything. */
  drain(): Promise<void>;
  /** Another instance took over: everything stops where it is. */
  abandon(): Promise<void>;
}

const DAY_MS = 86_400_000;

/** Takes up what is open in the journal and connects to the broker. */
export async function startHolder({ config, log, clock, pool, keeping, tenure, url }: HolderParts): Promise<Holder> {
  const access = brokerAccess(config);
  const plan = translationPlan(config.translateFile);
  await addProfiles(pool, shippedProfiles);
  const snapshot = buildSnapshot(await findChannels(pool), await findSites(pool));
  const board = new Board(snapshot, clock);
  for (const record of await findObserved(pool)) board.remember(record);
  for (const record of await findLastCommands(pool)) board.setEarlierCommand(record);
  for (const { channelId, ...taken } of await findTaken(pool)) board.setTaken(channelId, taken);

  // Counted before this instance writes anything: what comes from then on is counted as it goes.
  const tally = new DayTally(clock);
  tally.remember(await countByMinute(pool, smallestIdAt(clock.now() - DAY_MS)));

  const metrics = new Metrics();
  const writers = createWriters({
    keeping: keeping(tenure.epoch),
    log,
    onLeaseLost: tenure.end,
    onCommit: (writer, ms) => metrics.committed(writer, ms),
  });
  const feed = new Feed({
    describe(channel) {
      const entry = board.snapshot.byId.get(channel);
      if (!entry) return null;
      const data = channelView(entry, { board, lockouts, deadlines });
      return { event: { name: "channel", data }, sites: [entry.site.slug] };
    },
    siteOf: (channel) => board.snapshot.byId.get(channel)?.site.slug ?? null,
  });
  const answers = new Answers();
  const book = new RequestBook();
  const issued = new IssuedIds();
  const settle: Settle = new Settle({
    clock,
    log,
    board,
    book,
    feed,
    answers,
    writer: writers.settle,
    issued,
    metrics,
    tally,
    onOutcome: (request, outcome, commands) => notices.tell(() => outcomeNotice(request, outcome, commands, board)),
  });
  const presences = new PresenceLog(clock);
  const evidence: EvidenceHandler = new EvidenceHandler({
    clock,
    log,
    board,
    feed,
    issued,
    lanes: () => lanes,
    powerUps: () => powerUps,
    presences,
    metrics,
    saveChange: (change) => settle.saveChange(change),
    onLeftover: (channel) => lanes.clearRetained(channel),
    onChange: (channel, observed) => notices.tell(() => changeNotice(channel, observed)),
  });
  const audit = new AuditLog(pool, log);
  const passwordAgain = new PasswordAgain(pool, audit);
  const gate: BrokerGate = new BrokerGate({
    picture: () => ({
      snapshot: board.snapshot,
      listeners: house.listeners,
      tellers: notices.tellers,
      reserved: [link.markerTopic],
    }),
    lockoutOf: (channel) => lockouts.of(channel),
    publish: (topic, payload, how) => wire.publish(topic, payload, how),
    link: () => link,
    audit,
  });
  const lanes: LaneBook = new LaneBook({
    clock,
    log,
    board,
    link: () => gate,
    knownOf: (channel) => board.knownOf(channel),
    traceOf: ({ id, requestId }) => traceparentFor(requestId, book.get(requestId)?.record.traceparent ?? null, id),
    onChanged: (command) => settle.changed(command),
    keepSending: (command) => settle.keepSending(command),
  });
  const lockouts: Lockouts = new Lockouts(
    { clock, pool, epoch: tenure.epoch, board, feed, lanes: () => lanes },
    await findHeldLockouts(pool),
  );
  let onLinked: () => void = () => {};
  const linked = new Promise<void>((resolve) => {
    onLinked = resolve;
  });
  const link: Link = new Link(
    {
      access,
      clientId: config.brokerClientId,
      window: limits.publishWindow,
      log,
      mayConnect: () => tenure.isHeldStill(),
      onWrite: (topic, payload) => wire.wrote(topic, payload),
    },
    {
      onUp: () => {
        lanes.dispatchAll({ type: "wake" });
        status.tellChanges();
        onLinked();
      },
      onDown: () => {
        evidence.linkLost();
        lanes.dispatchAll({ type: "lost" });
        status.tellChanges();
      },
      onMessage: (topic, payload, live) => evidence.receive(topic, payload, live),
      onRoom: () => lanes.dispatchAll({ type: "wake" }),
    },
  );
  const wire: Wire = new Wire({
    access,
    clientId: `${config.brokerClientId}-wire`,
    clock,
    log,
    snapshot: () => board.snapshot,
    isOf: (topic, sites) => gate.isOf(topic, sites),
  });
  const calls = createCalls(config.mayCall);
  const notices: Notices = new Notices({
    clock,
    log,
    pool,
    calls,
    secretsKey: config.secretsKey,
    publish: (notice, topic, payload) => gate.publishNotification(notice, topic, payload),
  });
  const status: Status = new Status({
    clock,
    pool,
    link,
    board,
    feed,
    book,
    tally,
    writers: [...Object.values(writers), tenure],
  });
  const ledger = new Ledger(clock, pool, board, book);
  const situationOf = (channel: ChannelId): Situation => ({
    lockout: lockouts.of(channel),
    open: lanes.openOf(channel)?.to ?? null,
    known: board.knownOf(channel),
    before: board.beforeOf(channel),
    present: board.presenceOf(board.snapshot.byId.get(channel)?.device.address ?? "")?.up ?? null,
  });
  const { accept, decline, decree } = createAccept({
    clock,
    board,
    writer: writers.accept,
    book,
    lanes,
    lockouts,
    deadlines: () => deadlines,
    feed,
    metrics,
    tally,
    onRefused: (row, refusal, outcome) => notices.tell(() => refusedNotice(row, refusal, outcome)),
    situationOf,
    commitWaitMs: limits.commitWaitMs,
  });
  const rules = { clock, log, pool, board, situationOf, decree };
  const deadlines: Deadlines = new Deadlines(rules, await deadlinesOf(config, pool, clock));
  const powerUps: PowerUps = new PowerUps(rules, await findBoots(pool));
  const checker = new DescriptionChecker(config.databaseUrl, log);
  const remodel = new Remodel({
    pool,
    epoch: tenure.epoch,
    board,
    link,
    feed,
    lanes,
    lockouts,
    deadlines,
    audit,
    checker,
  });
  const close = createClose(book, lanes, answers);
  const { ask, askBriefly, follow } = createAsk({ accept, answers, book, board, ledger });
  const proofs = new Proofs({ clock, board, link, wire, ask, presences }, pool, log);

  metrics.watch({
    linkUp: () => link.isUp,
    linkRoundTripMs: () => link.roundTripMs,
    journalUp: () => !status.waitsFor().includes("journal"),
    queued: () => ({ accept: writers.accept.queued, settle: writers.settle.queued }),
    openRequests: () => book.size,
    liveConnections: () => feed.size,
    deadlines: () => deadlines.count,
    counts: () => status.troubles(),
  });
  recover(await findOpenCommands(pool), { clock, log, snapshot, book, lanes, settle, restored: config.restored });
  lockouts.stopHeldLanes();
  // What had to go off while the service was away is the first to be written.
  await deadlines.sweep();
  link.start({ filters: snapshot.filters, glance: snapshot.doFilters });
  status.start();
  const sweep = new Sweep({ lanes, settle, deadlines, powerUps, tidy: () => tidy(config, pool, clock, log), log });
  sweep.start();
  const keyRing = new KeyRing(pool);
  const wrongKeys = new WrongKeys(config.trustedProxies);
  const keyOf = (key: string, slug: string, connection?: object) => keyRing.keyOf(key, slug, connection);
  const stateOf = (channel: ChannelEntry) => knownState(board, channel);
  const observed = ({ id }: ChannelEntry) => {
    const known = board.knownOf(id);
    return known === null ? null : valueText(known);
  };
  const desk = {
    ask,
    askBriefly,
    follow,
    decline,
    snapshot: () => board.snapshot,
    stateOf,
    observed,
    now: () => clock.now(),
    told: (request: string, told: Told) => {
      writers.reply.enqueue({ request, at: clock.now(), ...told }).then(
        () => feed.tell({ event: { name: "request", data: { id: request, outcome: null } }, sites: null }),
        (error: unknown) => log.warn({ err: error, request }, "what was said back could not be kept"),
      );
    },
  };
  const inletCounter = new InletCounter(pool, clock, log);
  await inletCounter.start();
  const house = new InletHouse({
    counter: inletCounter,
    read: () => findInletRows(pool),
    desk,
    states: (site) => channelStates(board, site),
    secretsKey: config.secretsKey,
    calls,
    topic: {
      access,
      clientId: `${config.brokerClientId}-inlet`,
      answerProblem: (inlet, topic) => gate.answerProblem(inlet, topic),
      mayHear: (inlet, topic) => gate.mayHear(inlet, topic),
    },
    mayListen: (address, port) => mayListenAt(config.mayListen, address, port),
    keyOf,
    onChange: () => keyRing.stale(),
    log,
  });
  await house.refresh();
  const credentials = new Credentials({ clock, log, pool, board, admin: brokerAdminOf(config, access) });
  credentials.start();
  const attention = new Attention({
    clock,
    log,
    pool,
    sight: () => attentionSight({ clock, pool, board, lockouts, house, presences }),
    databaseTrouble: () => status.databaseTrouble,
    onChange: (open) => feed.tell({ event: { name: "attention", data: { open } }, sites: null }),
    onMatter: (matter, gone) => notices.tell(() => ({ what: "attention", matter, gone })),
  });
  const figures = new FigureBook({
    clock,
    log,
    pool,
    snapshot: () => board.snapshot,
    zone: config.zone,
    inletNames: () => new Map(house.all.map(({ record: { inlet } }) => [inlet.slug, inlet.name])),
  });
  await notices.start();
  await attention.start();
  figures.start();
  const translation = startTranslation(plan, log);
  const serveInlet = createFront({
    house,
    calls,
    keyOf,
    isLinkLive: (slug, id) => isLinkLive(pool, slug, id),
    log,
    countWrongKey: (req) => wrongKeys.count(req),
    asError: (error) => asRelayError(error, log),
  });
  const streams = new OpenStreams(pool, log);
  streams.start();
  const parts = {
    guard: new Guard(pool, audit),
    audit,
    passwordAgain,
    streams,
    gate,
    url,
    config,
    clock,
    log,
    pool,
    board,
    feed,
    ledger,
    lockouts,
    deadlines,
    close,
    status,
    metrics,
    ask,
    askBriefly,
    remodel,
    checker,
    wire,
    proofs,
    house,
    attention,
    figures,
    credentials,
    notices,
    desk,
    situationOf,
  };
  const app = createApp(parts);
  log.info({ channels: snapshot.channels.length }, "taking requests");

  function stopTimers(): void {
    sweep.stop();
    status.stop();
    streams.stop();
    wrongKeys.stop();
  }

  function giveUpWriting(): void {
    for (const writer of Object.values(writers)) writer.abandon();
  }

  return {
    // Inlets come first: what runs before the journal's commit is the biggest part of a request's cost.
    serve: (req, res) => {
      if (!serveInlet(req, res)) app(req, res);
    },
    linked,
    wakeAskers: () => answers.wakeAll(),
    async drain() {
      const giveUp = setTimeout(giveUpWriting, limits.drainMs);
      await attention.stop();
      await checker.stop();
      await credentials.stop();
      await house.stop();
      await inletCounter.stop();
      await translation.stop();
      await writers.accept.stop();
      stopTimers();
      await proofs.stop();
      await wire.close();
      await link.stop();
      settle.saveProgress(0);
      await writers.settle.stop();
      await notices.stop();
      await writers.reply.stop();
      clearTimeout(giveUp);
      // Last: what it counts may wait for a journal that is away, and nothing waits for it.
      await figures.stop();
    },
    async abandon() {
      stopTimers();
      // Nobody waits for it: what its connections still bring is refused by the journal.
      void house.stop();
      void checker.stop();
      inletCounter.abandon();
      void translation.stop();
      void attention.stop();
      void figures.stop();
      void credentials.stop();
      void notices.stop();
      giveUpWriting();
      answers.wakeAll();
      feed.close();
      await proofs.stop();
      await wire.close();
      link.abandon();
    },
  };
}

/** After a restore nobody knows what happened since the backup: what is overdue is dropped, not carried out. */
async function deadlinesOf({ restored }: Config, pool: Pool, clock: Clock): Promise<DeadlineRecord[]> {
  const records = await findDeadlines(pool);
  if (!restored) return records;
  const overdue = records.filter((record) => record.dueAt <= clock.now());
  await dropDeadlines(
    pool,
    overdue.map((record) => record.commandId),
  );
  return records.filter((record) => !overdue.includes(record));
}

function brokerAdminOf({ brokerAdminUser, brokerAdminPassword }: Config, access: BrokerAccess): BrokerAdmin | null {
  if (brokerAdminUser === undefined || brokerAdminPassword === undefined) return null;
  return new BrokerAdmin({ ...access, username: brokerAdminUser, password: brokerAdminPassword });
}
