/** Second stage: ways to the broker, and the gate that whatever goes there must pass. Nothing is connected so far. */
import { createHash } from "node:crypto";
import { BrokerGate } from "../broker/gate.ts";
import { TopicClaims } from "../broker/topic-claims.ts";
import { Wire } from "../broker/wire.ts";
import { reservedTopics } from "../model/topic-registry.ts";
import { createCalls } from "../platform/calls.ts";
import { brokerAccess } from "../platform/config/broker-access.ts";
import { Notifications } from "../reporting/notifications.ts";
import type { LeaderDeps } from "./leader-deps.ts";
import type { State } from "./state-stage.ts";
import type { StopStack } from "./stop-stack.ts";

export type BrokerWays = Awaited<ReturnType<typeof openBroker>>;

/** Where others lead too, each has a wire of its own: two with one client id end each other's connection (MQTT 5, 3.1.4). */
function wireIdOf(clientId: string, { shardCount, name }: LeaderDeps["peers"]): string {
  const own = shardCount === 1 ? "" : `-${createHash("sha256").update(name).digest("hex").slice(0, 8)}`;
  return `${clientId}-wire${own}`;
}

export async function openBroker(
  { config, log, clock, pool, peers }: LeaderDeps,
  { board, lockouts, audit, writers, shards }: State,
  stack: StopStack,
) {
  const access = brokerAccess(config);
  const clientId = config.brokerClientId;
  const claims = new TopicClaims(board, reservedTopics(clientId));
  const wire = new Wire({
    access,
    clientId: wireIdOf(clientId, peers),
    clock,
    log,
    board,
    claims,
    missing: () => peers.missing,
  });
  stack.onStop("wire", { drain: () => wire.close() });
  const gate = new BrokerGate({ claims, lockouts, wire, audit });
  const calls = createCalls(config.mayCall);
  stack.onStop("reply writer", { drain: () => writers.reply.stop(), abandon: () => writers.reply.abandon() });
  // Before what it tells of: an outcome that is written last is told too.
  const notifications = new Notifications({
    clock,
    log,
    pool,
    calls,
    secretsKey: config.secretsKey,
    isSender: () => shards.leads(0),
    publish: (notification, topic, payload) => gate.publishNotification(notification, topic, payload),
  });
  claims.add(notifications);
  await stack.start("notifications", () => notifications.start(), { drain: () => notifications.stop() });
  return { access, claims, wire, gate, calls, notifications };
}
