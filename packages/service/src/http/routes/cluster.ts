/** The instances that run beside each other: answered by the one that leads, from what each tells of itself. */
import type { ClusterView } from "@bold-relay/api";
import { clusterFindings, isAlive } from "@bold-relay/core";
import type { Router } from "express";
import { findInstances, findLeases, type InstanceRecord } from "../../store/instances.ts";
import type { HttpDeps } from "../deps.ts";

export function clusterRoutes({ guard, pool, clock }: Pick<HttpDeps, "guard" | "pool" | "clock">): Router {
  return guard.routes({
    "GET /cluster": async (_req, res) => {
      const [instances, [lease]] = await Promise.all([findInstances(pool), findLeases(pool)]);
      const leader = lease?.leader ?? null;
      res.json({
        at: new Date(clock.now()).toISOString(),
        leader,
        since: new Date(lease?.since ?? 0).toISOString(),
        instances: instances.map((one) => instanceView(one, leader)),
        findings: clusterFindings(instances, leader),
      } satisfies ClusterView);
    },
  });
}

function instanceView({ run: _, secretsMark: __, startedAt, ...one }: InstanceRecord, leader: string | null) {
  return {
    ...one,
    startedAt: new Date(startedAt).toISOString(),
    alive: isAlive(one),
    leads: one.name === leader,
  };
}
