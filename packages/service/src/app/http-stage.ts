/** Last stage: everything that can be asked over HTTP is answered. */
import type { RequestListener } from "node:http";
import type { Request } from "express";
import { inletCaller } from "../auth/audit-log.ts";
import { OpenStreams } from "../auth/open-streams.ts";
import { PasswordAgain } from "../auth/password-again.ts";
import { WrongKeys } from "../auth/wrong-keys.ts";
import { createApp } from "../http/app.ts";
import { Guard } from "../http/permissions.ts";
import { asRelayError } from "../http-exchange/problem.ts";
import { createInletHttpHandler } from "../inlets/http-handler.ts";
import { watchChannels } from "../inlets/panel/watch.ts";
import { DescriptionChecker } from "../model/description-checker.ts";
import { ModelReload } from "../model/model-reload.ts";
import { reservedTopics } from "../model/topic-registry.ts";
import type { Statistics } from "../reporting/statistics.ts";
import { statusOfAll } from "../sharing/status-anywhere.ts";
import { shardOfSite } from "../state/site-shards.ts";
import { isLinkLive } from "../store/inlet-links.ts";
import { channelView } from "../views/channel-view.ts";
import type { BrokerWays } from "./broker-stage.ts";
import type { Delivery } from "./delivery-stage.ts";
import type { Inlets } from "./inlet-stage.ts";
import type { LeaderDeps } from "./leader-deps.ts";
import { openSharing, type Sharing } from "./sharing-stage.ts";
import type { State } from "./state-stage.ts";
import type { StopStack } from "./stop-stack.ts";

export async function openHttp(
  deps: LeaderDeps,
  state: State,
  broker: BrokerWays,
  delivery: Delivery,
  inlets: Inlets,
  statistics: Statistics,
  stack: StopStack,
): Promise<Sharing> {
  const { config, log, clock, pool, url, lookNow } = deps;
  const { board, feed, inputs, lockouts, deadlines, audit, metrics, shards, openRequests, queries, ways } = state;
  const { status } = delivery;
  const checker = new DescriptionChecker(config.databaseUrl, reservedTopics(config.brokerClientId), log);
  stack.onStop("description checker", { drain: () => checker.stop() });
  const modelReload = new ModelReload({
    pool,
    epochsOf: (sites) => shards.epochsOf(sites),
    board,
    adopt: state.adopt,
    inTurn: state.inModelTurn,
    lanes: shards,
    lockouts,
    deadlines,
    audit,
    checker,
  });
  metrics.watch({
    linkUp: () => shards.linkState.isUp,
    linkRoundTripMs: () => shards.linkState.roundTripMs,
    databaseUp: () => !status.waitsFor().includes("database"),
    queued: () => state.writers.queued,
    openRequests: () => openRequests.size,
    liveConnections: () => feed.size,
    deadlines: () => deadlines.count,
    counts: () => status.troubles(),
  });
  const streams = new OpenStreams(pool, log);
  await stack.start("streams", () => streams.start(), { drain: () => streams.stop() });
  const wrongKeys = new WrongKeys(config.trustedProxies);
  stack.onStop("wrong keys", { drain: () => wrongKeys.stop() });
  const serveInlet = createInletHttpHandler({
    inlets: inlets.inlets,
    calls: broker.calls,
    keyOf: inlets.keyOf,
    isLinkLive: (slug, id) => isLinkLive(pool, slug, id),
    panels: {
      snapshot: () => board.snapshot,
      view: (channel) => channelView(channel, { board, lockouts, deadlines }),
      now: () => clock.now(),
      watch: (watcher) => watchChannels(feed, watcher),
    },
    log,
    secure: config.secureCookies,
    countWrongKey: (req) => wrongKeys.count(req),
    noteRefusal: (req, action, slug, keyId) =>
      audit.recordRefusal(inletCaller(wrongKeys.addressOf(req), keyId), action, slug),
    asError: (error) => asRelayError(error, log),
  });
  const app = createApp({
    ...{ url, lookNow, config, clock, log, pool, audit, board, feed, queries, lockouts, deadlines, metrics, ways },
    ...{ gate: broker.gate, wire: broker.wire, claims: broker.claims, notifications: broker.notifications },
    inModelTurn: state.inModelTurn,
    ...delivery,
    ...inlets,
    watchInputs: (watcher) => inputs.watch(watcher),
    statusOfAll: (sites) =>
      statusOfAll({ board, shards, peers: deps.peers, tally: state.tally, openRequests, status }, sites),
    handOn(req, res, site, body) {
      const shard = site === null ? null : shardOfSite(board.snapshot, site);
      if (shard === null || shards.leads(shard)) return false;
      // Whoever read it has cut off what comes before its own part of the address.
      req.url = (req as Partial<Pick<Request, "originalUrl">>).originalUrl ?? req.url;
      deps.peers.forwardTo(shard).handOnRead(req, res, body);
      return true;
    },
    guard: new Guard(pool, audit, config.secureCookies),
    passwordAgain: new PasswordAgain(pool, audit),
    streams,
    modelReload,
    checker,
    statistics,
  });
  // Inlets come first: what runs before the journal's commit is the biggest part of a request's cost.
  const serve: RequestListener = (req, res) => {
    if (!serveInlet(req, res)) app(req, res);
  };
  return openSharing({ deps, state, broker, delivery, inlets, serve, stack });
}
