/** Second stage: ways to the broker, and the gate that whatever goes there must pass. Nothing is connected so far. */
import { BrokerGate } from "../broker/gate.ts";
import { Link } from "../broker/link.ts";
import { TopicClaims } from "../broker/topic-claims.ts";
import { Wire } from "../broker/wire.ts";
import { createCalls } from "../platform/calls.ts";
import { brokerAccess } from "../platform/config/broker-access.ts";
import { Notifications } from "../reporting/notifications.ts";
import type { LeaderDeps } from "./leader-deps.ts";
import type { State } from "./state-stage.ts";
import type { StopStack } from "./stop-stack.ts";

export type BrokerWays = Awaited<ReturnType<typeof openBroker>>;

export async function openBroker(
  { config, log, clock, pool }: LeaderDeps,
  { board, lockouts, audit, replyWriter, shards }: State,
  stack: StopStack,
) {
  const access = brokerAccess(config);
  const clientId = config.brokerClientId;
  const claims = new TopicClaims(board, [Link.markerTopicOf(clientId)]);
  const wire = new Wire({ access, clientId: `${clientId}-wire`, clock, log, board, claims });
  stack.onStop("wire", { drain: () => wire.close() });
  const gate = new BrokerGate({ claims, lockouts, wire, audit });
  const calls = createCalls(config.mayCall);
  stack.onStop("reply writer", { drain: () => replyWriter.stop(), abandon: () => replyWriter.abandon() });
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
