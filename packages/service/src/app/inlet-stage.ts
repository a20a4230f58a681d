/** Fourth stage: inlets open, and what looks after devices, alerts and statistics begins. */
import { type ChannelEntry, valueText } from "@bold-relay/core";
import { Attention } from "../attention/attention.ts";
import { attentionSight } from "../attention/sight.ts";
import { KeyRing } from "../auth/key-ring.ts";
import type { BrokerAccess } from "../config/broker-access.ts";
import type { Config } from "../config/config.ts";
import { mayListenAt } from "../config/places.ts";
import { BrokerAdmin } from "../credentials/broker-admin.ts";
import { Credentials } from "../credentials/credentials.ts";
import { InletHouse } from "../inlets/house.ts";
import type { Told } from "../inlets/inlet.ts";
import { InletCounter } from "../inlets/inlet-counter.ts";
import { findInletRows } from "../store/inlets.ts";
import { startTranslation, translationPlan } from "../translation.ts";
import { channelStates, knownState } from "../view/channel-states.ts";
import type { BrokerWays } from "./broker-stage.ts";
import type { Delivery } from "./delivery-stage.ts";
import type { LeaderDeps } from "./leader-deps.ts";
import type { State } from "./state-stage.ts";
import type { StopStack } from "./stop-stack.ts";

export type Inlets = Awaited<ReturnType<typeof openInlets>>;

export async function openInlets(
  { config, log, clock, pool }: LeaderDeps,
  { board, feed, writers, lockouts, presences }: State,
  { access, calls, claims, gate, notices }: BrokerWays,
  { ask, askBriefly, follow, decline, status }: Delivery,
  stack: StopStack,
) {
  const translation = startTranslation(translationPlan(config.translateFile), log);
  await stack.start("translators", () => {}, { drain: () => translation.stop() });
  const counter = new InletCounter(pool, clock, log);
  await stack.start("inlet counts", () => counter.start(), {
    drain: () => counter.stop(),
    abandon: () => counter.abandon(),
  });
  const keyRing = new KeyRing(pool);
  const keyOf = (key: string, slug: string, connection?: object) => keyRing.keyOf(key, slug, connection);
  const desk = {
    ask,
    askBriefly,
    follow,
    decline,
    snapshot: () => board.snapshot,
    stateOf: (channel: ChannelEntry) => knownState(board, channel),
    observed: ({ id }: ChannelEntry) => {
      const known = board.knownOf(id);
      return known === null ? null : valueText(known);
    },
    now: () => clock.now(),
    told: (request: string, told: Told) => {
      writers.reply.enqueue({ request, at: clock.now(), ...told }).then(
        () => feed.tell({ event: { name: "request", data: { id: request, outcome: null } }, sites: null }),
        (error: unknown) => log.warn({ err: error, request }, "what was said back could not be kept"),
      );
    },
  };
  const house = new InletHouse({
    counter,
    read: () => findInletRows(pool),
    desk,
    states: (site) => channelStates(board, site),
    secretsKey: config.secretsKey,
    calls,
    topic: {
      access,
      clientId: `${config.brokerClientId}-inlet`,
      answerProblem: (inlet, topic) => gate.answerProblem(inlet, topic),
      mayHear: (inlet, topic) => claims.mayHear(inlet, topic),
    },
    mayListen: (address, port) => mayListenAt(config.mayListen, address, port),
    keyOf,
    onChange: () => keyRing.stale(),
    log,
  });
  claims.add(house);
  await stack.start("inlets", () => house.refresh(), { drain: () => house.stop() });
  const credentials = new Credentials({ clock, log, pool, board, admin: brokerAdminOf(config, access) });
  await stack.start("device users", () => credentials.start(), { drain: () => credentials.stop() });
  const attention = new Attention({
    clock,
    log,
    pool,
    sight: () => attentionSight({ clock, pool, board, lockouts, house, presences }),
    databaseTrouble: () => status.databaseTrouble,
    onChange: (open) => feed.tell({ event: { name: "attention", data: { open } }, sites: null }),
    onMatter: (matter, gone) => notices.tell(() => ({ what: "attention", matter, gone })),
  });
  await stack.start("alerts", () => attention.start(), { drain: () => attention.stop() });
  return { desk, house, keyOf, credentials, attention };
}

function brokerAdminOf({ brokerAdminUser, brokerAdminPassword }: Config, access: BrokerAccess): BrokerAdmin | null {
  if (brokerAdminUser === undefined || brokerAdminPassword === undefined) return null;
  return new BrokerAdmin({ ...access, username: brokerAdminUser, password: brokerAdminPassword });
}
