/** Third stage: requests are taken, lanes write, evidence comes back. What the database has open goes on, then the link connects. */
import { EventEmitter } from "node:events";
import { type ChannelId, type Situation, traceparentFor } from "@bold-relay/core";
import { CommissioningRuns } from "../commissioning/runs.ts";
import { CommandRecorder } from "../delivery/command-recorder.ts";
import { DeadlineRunner } from "../delivery/deadline-runner.ts";
import { EvidenceHandler } from "../delivery/evidence-handler.ts";
import { LaneRunner } from "../delivery/lane-runner.ts";
import { PowerUps } from "../delivery/power-ups.ts";
import { recover } from "../delivery/recover.ts";
import { Sweep } from "../delivery/sweep.ts";
import { limits } from "../platform/config/limits.ts";
import { changeNotification, outcomeNotification, refusedNotification } from "../reporting/notification-event.ts";
import { Status } from "../reporting/status.ts";
import { createClose } from "../requests/cancel.ts";
import { createAccept } from "../requests/submit.ts";
import { createAsk } from "../requests/wait.ts";
import { findBoots } from "../store/device-boots.ts";
import { findOpenCommands } from "../store/open-commands.ts";
import type { BrokerWays } from "./broker-stage.ts";
import { tidy } from "./housekeeping.ts";
import type { LeaderDeps } from "./leader-deps.ts";
import type { State } from "./state-stage.ts";
import type { StopStack } from "./stop-stack.ts";

export type Delivery = Awaited<ReturnType<typeof openDelivery>>;

export async function openDelivery(deps: LeaderDeps, state: State, broker: BrokerWays, stack: StopStack) {
  const { config, log, clock, pool, heldLease } = deps;
  const {
    board,
    openRequests,
    feed,
    inputs,
    answers,
    writers,
    issued,
    metrics,
    tally,
    recent,
    ways,
    lockouts,
    deadlines,
    presences,
    queries,
  } = state;
  const { link, gate, wire, notifications } = broker;
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
    link: gate,
    knownOf: (channel) => board.knownOf(channel),
    traceOf: ({ id, requestId }) =>
      traceparentFor(requestId, openRequests.get(requestId)?.record.traceparent ?? null, id),
    commands: recorder,
  });
  const lock = (channel: ChannelId) => lanes.dispatch(channel, { type: "lock", channel });
  lockouts.events.on("locked", lock);
  const situationOf = (channel: ChannelId): Situation => ({
    lockout: lockouts.of(channel),
    open: lanes.openOf(channel)?.to ?? null,
    known: board.knownOf(channel),
    before: board.beforeOf(channel),
    online: board.presenceOf(board.snapshot.byId.get(channel)?.device.address ?? "")?.up ?? null,
  });
  const { accept, decline, submitForRule } = createAccept({
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
  });
  const { ask, askBriefly, follow } = createAsk({ accept, answers, openRequests, board, queries });
  const rules = { clock, log, pool, board, situationOf, submitForRule };
  const deadlineRunner = new DeadlineRunner(rules, deadlines);
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
    metrics,
    saveChange: (change) => recorder.saveChange(change),
    onChange: (channel, observed) => notifications.tell(() => changeNotification(channel, observed)),
  });
  const status = new Status({
    clock,
    pool,
    link,
    board,
    feed,
    openRequests,
    tally,
    writers: [...Object.values(writers), heldLease],
  });

  const { snapshot } = board;
  const linkEvents = new EventEmitter<{ up: [] }>();
  recover(await findOpenCommands(pool), {
    clock,
    log,
    snapshot,
    openRequests,
    lanes,
    recorder,
    restored: config.restored,
  });
  for (const channel of lockouts.channels) lock(channel);
  // What had to go off while the service was away is the first to be written.
  await deadlineRunner.sweep();
  const linked = await startLink();
  const runs = new CommissioningRuns({ clock, board, link, wire, ask, presences }, pool, log);
  stack.onStop("commissioning", { drain: () => runs.stop() });
  stack.onStop("accept writer", { drain: () => writers.accept.stop(), abandon: () => writers.accept.abandon() });
  await stack.start("status", () => status.start(), { drain: () => status.stop() });
  const sweep = new Sweep({
    lanes,
    recorder,
    deadlines: deadlineRunner,
    powerUps,
    tidy: () => tidy(config, pool, clock, log),
    log,
  });
  await stack.start("sweep", () => sweep.start(), { drain: () => sweep.stop() });
  const close = createClose(openRequests, lanes, answers);
  return { lanes, situationOf, ask, askBriefly, follow, decline, status, runs, close, linkEvents, linked: linked.up };

  /** The promise is in an object: it is not to be waited for here. */
  async function startLink(): Promise<{ up: Promise<void> }> {
    let onLinked: () => void = () => {};
    const up = new Promise<void>((resolve) => {
      onLinked = resolve;
    });
    const topics = { filters: snapshot.filters, retainedProbe: snapshot.doFilters };
    const listener = {
      onUp() {
        lanes.dispatchAll({ type: "wake" });
        status.tellChanges();
        linkEvents.emit("up");
        onLinked();
      },
      onDown() {
        evidence.linkLost();
        lanes.dispatchAll({ type: "lost" });
        status.tellChanges();
      },
      onMessage: (topic: string, payload: Uint8Array, live: boolean) => evidence.receive(topic, payload, live),
      onRoom: () => lanes.dispatchAll({ type: "wake" }),
    };
    await stack.start("link", () => link.start(topics, listener), {
      drain: () => link.stop(),
      abandon: () => link.abandon(),
    });
    return { up };
  }
}
