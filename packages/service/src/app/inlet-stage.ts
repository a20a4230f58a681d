/** Fourth stage: inlets open, and what looks after devices, alerts and statistics begins. */
import { type Asker, type ChannelEntry, type InletKind, type Intent, valueText } from "@bold-relay/core";
import { unknownCaller } from "../auth/audit-log.ts";
import { KeyRing } from "../auth/key-ring.ts";
import { BrokerAdmin } from "../broker/broker-admin.ts";
import { BrokerUsers } from "../broker/broker-users.ts";
import { Credentials } from "../broker/credentials.ts";
import type { ReplyReceipt } from "../inlets/inlet.ts";
import { InletCounter } from "../inlets/inlet-counter.ts";
import { inletWays } from "../inlets/kinds/index.ts";
import { InletRegistry } from "../inlets/registry.ts";
import type { BrokerAccess } from "../platform/config/broker-access.ts";
import type { Config } from "../platform/config/config.ts";
import { mayListenAt } from "../platform/config/places.ts";
import { alertInput } from "../reporting/alert-input.ts";
import { Alerts } from "../reporting/alerts.ts";
import { wayOf } from "../requests/submit.ts";
import { createInletsAnywhere } from "../sharing/inlets-anywhere.ts";
import { channelStates, knownState } from "../state/channel-states.ts";
import { shardOfSite } from "../state/site-shards.ts";
import { findInletRows } from "../store/inlets.ts";
import type { BrokerWays } from "./broker-stage.ts";
import type { Delivery } from "./delivery-stage.ts";
import type { LeaderDeps } from "./leader-deps.ts";
import type { State } from "./state-stage.ts";
import type { StopStack } from "./stop-stack.ts";
import { startTranslation, translationPlan } from "./translation.ts";

export type Inlets = Awaited<ReturnType<typeof openInlets>>;

export async function openInlets(
  { config, log, clock, pool, peers }: LeaderDeps,
  { board, feed, inputs, writers, lockouts, presences, ways, shards, audit }: State,
  { access, calls, claims, gate, notifications }: BrokerWays,
  { ask, askBriefly, follow, decline, status, linkEvents, jobs, shardWatchers }: Delivery,
  stack: StopStack,
) {
  const plan = await translationPlan(config.translateFile);
  let translation = startTranslation(null, log);
  jobs.add({
    start() {
      translation = startTranslation(plan, log);
    },
    stop: () => translation.stop(),
  });
  await stack.start("translators", () => {}, { drain: () => translation.stop() });
  const counter = new InletCounter(pool, clock, log);
  await stack.start("inlet counts", () => counter.start(), {
    drain: () => counter.stop(),
    abandon: () => counter.abandon(),
  });
  const keyRing = new KeyRing(pool);
  const keyOf = (key: string, slug: string, connection?: object) => keyRing.keyOf(key, slug, connection);
  const requests = {
    ask,
    askBriefly,
    follow,
    decline,
    instancesOf: (kind: InletKind) => (inletWays[kind].isAnywhere ? peers.others().length + 1 : 1),
    split: (intent: Intent) => shards.split(intent),
    caught: (way: string, asker: Asker) => ways.used(wayOf({ way }, asker), [], asker.name),
    snapshot: () => board.snapshot,
    stateOf: (channel: ChannelEntry) => knownState(board, channel),
    observed: ({ id }: ChannelEntry) => {
      const known = board.knownOf(id);
      return known === null ? null : valueText(known);
    },
    now: () => clock.now(),
    told: (request: string, receipt: ReplyReceipt) => {
      writers.reply.enqueue({ request, at: clock.now(), ...receipt }).then(
        () => feed.tell({ event: { name: "request", data: { id: request, outcome: null } }, sites: null }),
        (error: unknown) => log.warn({ err: error, request }, "what was said back could not be kept"),
      );
    },
  };
  const inlets = new InletRegistry({
    counter,
    read: () => findInletRows(pool),
    requests,
    states: (site) => channelStates(board, site),
    secretsKey: config.secretsKey,
    calls,
    topic: {
      access,
      clientId: `${config.brokerClientId}-inlet`,
      answerProblem: (inlet, topic) => gate.answerProblem(inlet, topic),
      mayHear: (inlet, topic) => claims.mayHear(inlet, topic),
    },
    watchInputs: (watcher) => inputs.watch(watcher),
    isOwner: ({ kind, site }) => kind === "device" || shards.leads(shardOfSite(board.snapshot, site ?? "")),
    mayListen: (address, port) => mayListenAt(config.mayListen, address, port),
    keyOf,
    noteWrongKeys: (address, slug) => audit.recordRefusal(unknownCaller(address), "keys slowed down", slug),
    onChange: () => keyRing.stale(),
    log,
  });
  claims.add(inlets);
  await stack.start("inlets", () => inlets.refresh(), { drain: () => inlets.stop() });
  shardWatchers.push(() => inlets.refresh());
  const { secretsKey } = config;
  const admins = brokerAdmins(config, access);
  const brokerUsers = admins && new BrokerUsers({ ...admins, pool, secretsKey, log });
  const credentials = new Credentials({ clock, log, pool, board, brokerUsers, secretsKey });
  linkEvents.on("up", () => credentials.linkUp());
  jobs.add({ start: () => credentials.start(), stop: () => credentials.pause() });
  await stack.start("device users", () => {}, { drain: () => credentials.stop() });
  const inletHealth = createInletsAnywhere({ peers, inlets, clock, log });
  const alerts = new Alerts({
    clock,
    log,
    pool,
    input: () => alertInput({ clock, pool, board, lockouts, inlets, presences, inletHealth }),
    databaseTrouble: () => status.databaseTrouble,
    onChange: (open) => feed.tell({ event: { name: "alerts", data: { open } }, sites: null }),
    onAlert: (alert, gone) => notifications.tell(() => ({ what: "alert", alert, gone })),
  });
  jobs.add({ start: () => alerts.start(), stop: () => alerts.stop() });
  await stack.start("alerts", () => {}, { drain: () => alerts.stop() });
  return { requests, inlets, inletHealth, keyOf, credentials, alerts };
}

/** For the broker in use, and for each that may be; null where the service has no user who may make others. */
function brokerAdmins(config: Config, access: BrokerAccess) {
  const { brokerAdminUser: username, brokerAdminPassword: password, brokerAdminUrls } = config;
  if (username === undefined || password === undefined) return null;
  const adminAt = (url: string) => new BrokerAdmin({ ...access, url, username, password });
  return { inUse: adminAt(access.url), copies: brokerAdminUrls.map(adminAt) };
}
