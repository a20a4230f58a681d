/**
 * One shard: its sites' requests are taken, their lanes write, evidence comes back. What the database has open goes on, then the link
 * connects. An instance may lead several, each with a lease, a link and writers of its own; what it knows of channels is in one place.
 */
import {
  type ChannelEntry,
  type ChannelId,
  filtersOfSites,
  type Situation,
  type Snapshot,
  type TopicUse,
  traceparentFor,
} from "@bold-relay/core";
import { Link } from "../broker/link.ts";
import { CommandRecorder } from "../delivery/command-recorder.ts";
import { DeadlineRunner } from "../delivery/deadline-runner.ts";
import { EvidenceHandler } from "../delivery/evidence-handler.ts";
import { LaneRunner } from "../delivery/lane-runner.ts";
import { PowerUps } from "../delivery/power-ups.ts";
import { recover } from "../delivery/recover.ts";
import { SilentDevices } from "../delivery/silent-devices.ts";
import { StateQueries } from "../delivery/state-queries.ts";
import { Sweep } from "../delivery/sweep.ts";
import { limits } from "../platform/config/limits.ts";
import { changeNotification, outcomeNotification, refusedNotification } from "../reporting/notification-event.ts";
import type { LedShard, Shards } from "../requests/shards.ts";
import { createAccept } from "../requests/submit.ts";
import { isUndivided, shardOfChannel, shardOfSite, sitesOfShard } from "../state/site-shards.ts";
import { findBoots } from "../store/device-boots.ts";
import type { HeldLease } from "../store/leases.ts";
import { findOpenCommands } from "../store/open-commands.ts";
import type { BrokerWays } from "./broker-stage.ts";
import type { LeaderDeps } from "./leader-deps.ts";
import type { State } from "./state-stage.ts";
import type { StopStack } from "./stop-stack.ts";

/** What the links of all shards tell. */
export interface LinkWatch {
  readonly onUp: () => void;
  readonly onDown: () => void;
}

/** @param sites whose open commands go on; those that come to the shard meanwhile are taken up once it stands */
export async function openShard(
  deps: LeaderDeps,
  state: State,
  broker: BrokerWays,
  heldLease: HeldLease,
  sites: ReadonlySet<string>,
  watch: LinkWatch,
  stack: StopStack,
): Promise<LedShard> {
  const { config, log, clock, pool } = deps;
  const { shard } = heldLease;
  const { board, openRequests, feed, inputs, answers, issued, metrics, tally, recent, ways } = state;
  const { lockouts, deadlines, presences } = state;
  const { gate, wire, notifications, access } = broker;
  const isOwn = (channel: ChannelId) => shardOfChannel(board.snapshot, channel) === shard;
  /** Sites that go to another shard just now. */
  const leaving = new Set<string>();
  let isClosed = false;
  /** Sites that come from another shard, and are not listened to before it is known what the database has of them. */
  const arriving = new Set<string>();
  const writers = state.writers.ofShard(heldLease.epoch, heldLease.end);
  stack.onStop("writers", {
    drain: () => {},
    abandon() {
      writers.accept.abandon();
      writers.settle.abandon();
    },
  });
  const link = new Link({
    access,
    clientId: clientIdOf(config.brokerClientId, shard),
    markerTopic: Link.markerTopicOf(config.brokerClientId),
    window: limits.publishWindow,
    log,
    mayConnect: () => heldLease.isHeldStill(),
    onWrite: (topic, payload) => wire.wrote(topic, payload),
  });
  const recorder = new CommandRecorder({
    clock,
    log,
    board,
    openRequests,
    feed,
    answers,
    writer: writers.settle,
    issued,
    metrics,
    tally,
    recent,
    onOutcome: (request, outcome, commands) =>
      notifications.tell(() => outcomeNotification(request, outcome, commands, board)),
  });
  stack.onStop("settle writer", {
    async drain() {
      recorder.saveProgress(0);
      await writers.settle.stop();
    },
    abandon: () => writers.settle.abandon(),
  });
  const lanes = new LaneRunner({
    clock,
    log,
    board,
    link: gate.forLanes(link),
    knownOf: (channel) => board.knownOf(channel),
    traceOf: ({ id, requestId }) =>
      traceparentFor(requestId, openRequests.get(requestId)?.record.traceparent ?? null, id),
    commands: recorder,
    onWritten: (channel) => stateQueries.written(channel),
  });
  const stateQueries = new StateQueries({
    clock,
    board,
    link: gate.forLanes(link),
    isOwn,
    isLockedOut: (channel) => lockouts.of(channel) !== null,
  });
  const silentDevices = new SilentDevices({ clock, board, feed, channels: () => ownChannels(board.snapshot, shard) });
  const lock = (channel: ChannelId) => {
    if (isOwn(channel)) lanes.dispatch(channel, { type: "lock", channel });
  };
  lockouts.events.on("locked", lock);
  stack.onStop("lock-outs", { drain: () => void lockouts.events.off("locked", lock) });
  const situationOf = situationIn({ state, openOf: (channel) => lanes.openOf(channel) });
  const submission = createAccept({
    clock,
    board,
    writer: writers.accept,
    openRequests,
    lanes,
    lockouts,
    deadlines,
    feed,
    metrics,
    tally,
    ways,
    onRefused(row, refusal, outcome) {
      recent.refused(row.id, row.inlet, row.site, outcome);
      notifications.tell(() => refusedNotification(row, refusal, outcome));
    },
    situationOf,
    commitWaitMs: limits.commitWaitMs,
    isClosed: () => isClosed,
    isGone: (channel) => isClosed || !isOwn(channel) || leaving.has(board.snapshot.byId.get(channel)?.site.slug ?? ""),
  });
  const rules = { clock, log, pool, board, situationOf, submitForRule: submission.submitForRule };
  const deadlineRunner = new DeadlineRunner(rules, deadlines, isOwn);
  const powerUps = new PowerUps(rules, await findBoots(pool));
  const evidence = new EvidenceHandler({
    clock,
    log,
    board,
    feed,
    inputs,
    issued,
    lanes,
    powerUps,
    presences,
    silentDevices,
    metrics,
    channels: () => ownChannels(board.snapshot, shard),
    isFor(use) {
      if (isUndivided(board.snapshot)) return shard === 0;
      return shardOfSite(board.snapshot, siteOfUse(use)) === shard;
    },
    saveChange: (change) => recorder.saveChange(change),
    onChange: (channel, observed) => notifications.tell(() => changeNotification(channel, observed)),
  });
  await goOn(isFromTheStart, heldLease.restored);
  // What had to go off while the service was away is the first to be written.
  await deadlineRunner.sweep();
  await startLink();
  stack.onStop("accept writer", { drain: () => writers.accept.stop(), abandon: () => writers.accept.abandon() });
  const sweep = new Sweep({ lanes, recorder, deadlines: deadlineRunner, powerUps, stateQueries, silentDevices });
  await stack.start("sweep", () => sweep.start(), { drain: () => sweep.stop() });
  const listen = (snapshot: Snapshot, again: (filter: string) => boolean) =>
    link.listen(topicsOf(snapshot, shard, arriving), again);
  return { heldLease, lanes, link, submission, writers, listen, takeUpSites, letGoSite, dropSites, close };

  function dropSites(sites: readonly string[]): void {
    if (sites.length > 0) lanes.drop(isAt(sites));
  }

  function close(): void {
    isClosed = true;
  }

  /** What is open goes on. */
  async function goOn(isWanted: (channel: ChannelId) => boolean, isRestored: boolean): Promise<void> {
    const open = (await findOpenCommands(pool)).filter(({ channelId }) => isWanted(channelId));
    recover(open, { clock, log, snapshot: board.snapshot, openRequests, lanes, recorder, restored: isRestored });
    for (const channel of lockouts.channels) if (isWanted(channel)) lock(channel);
  }

  async function takeUpSites(sites: readonly string[]): Promise<void> {
    const isArriving = isAt(sites);
    for (const site of sites) {
      leaving.delete(site);
      arriving.add(site);
    }
    await state.readAgain(isArriving, false);
    await state.announce(isArriving);
    await goOn(isArriving, false);
    for (const site of sites) arriving.delete(site);
    // What lies retained there comes again.
    const own = new Set(filtersOfSites(board.snapshot, new Set(sites)).filters);
    listen(board.snapshot, (filter) => own.has(filter));
    lanes.dispatchAll({ type: "wake" });
  }

  async function letGoSite(site: string): Promise<void> {
    const isGone = isAt([site]);
    leaving.add(site);
    await writers.accept.settled();
    lanes.drop(isGone);
    recorder.saveProgress(0);
    await writers.settle.settled();
    answers.wake(openRequests.idsFor(isGone));
    openRequests.drop(isGone);
  }

  function isFromTheStart(channel: ChannelId): boolean {
    const entry = board.snapshot.byId.get(channel);
    return entry ? sites.has(entry.site.slug) : shard === 0;
  }

  function isAt(sites: readonly string[]) {
    return (channel: ChannelId) => sites.includes(board.snapshot.byId.get(channel)?.site.slug ?? "");
  }

  async function startLink(): Promise<void> {
    const listener = {
      onUp() {
        silentDevices.linkUp();
        lanes.dispatchAll({ type: "wake" });
        watch.onUp();
      },
      onDown() {
        evidence.linkLost();
        lanes.dispatchAll({ type: "lost" });
        watch.onDown();
      },
      onMessage: (topic: string, payload: Uint8Array, live: boolean, waited: boolean, correlation: string | null) =>
        evidence.receive(topic, payload, { live, waited }, correlation),
      onRoom: () => lanes.dispatchAll({ type: "wake" }),
    };
    await stack.start("link", () => link.start(topicsOf(board.snapshot, shard, arriving), listener), {
      drain: () => link.stop(),
      abandon: () => link.abandon(),
    });
  }
}

/** The site of the first channel that has the topic; of a presence topic that of its device. */
function siteOfUse({ do: commands, ask, done, is, here }: TopicUse): string {
  const [first] = commands.concat(ask, done, is);
  return first?.site.slug ?? here?.device.split("/")[0] ?? "";
}

/** What is decided by. @param openOf the newest open setpoint of a channel */
export function situationIn({ state, openOf }: { state: State; openOf: Shards["openOf"] }) {
  const { board, lockouts } = state;
  return (channel: ChannelId): Situation => ({
    lockout: lockouts.of(channel),
    open: openOf(channel)?.to ?? null,
    known: board.knownOf(channel),
    before: board.beforeOf(channel),
    online: board.presenceOf(board.snapshot.byId.get(channel)?.device.address ?? "")?.up ?? null,
  });
}

/** The first shard has the client id that an installation with one shard has: the broker keeps what is meant for it. */
function clientIdOf(clientId: string, shard: number): string {
  return shard === 0 ? clientId : `${clientId}-${shard}`;
}

function ownChannels(snapshot: Snapshot, shard: number): readonly ChannelEntry[] {
  if (shard === 0 && isUndivided(snapshot)) return snapshot.channels;
  return snapshot.channels.filter(({ site }) => shardOfSite(snapshot, site.slug) === shard);
}

function topicsOf(snapshot: Snapshot, shard: number, without: ReadonlySet<string>) {
  const own = sitesOfShard(snapshot, shard);
  for (const site of without) own.delete(site);
  const { filters, doFilters } = own.size === snapshot.sites.length ? snapshot : filtersOfSites(snapshot, own);
  return { filters, retainedProbe: doFilters };
}
