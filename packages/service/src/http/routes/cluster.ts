/** The instances that run beside each other: answered by the one that leads, from what each tells of itself. */
import type { ClusterView } from "@bold-relay/api";
import { leaderSchema } from "@bold-relay/api/schema";
import { clusterFindings, isAlive, RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { readBody } from "../../http-exchange/body.ts";
import { findInstances, findLeases, type InstanceRecord } from "../../store/instances.ts";
import { wantLeader } from "../../store/leases.ts";
import { inTransaction } from "../../store/pool.ts";
import type { HttpDeps } from "../deps.ts";

/** So long nobody else takes the lead that was handed over, ms. */
const WANTED_MS = 10_000;

export function clusterRoutes({
  guard,
  audit,
  pool,
  clock,
  giveLead,
}: Pick<HttpDeps, "guard" | "audit" | "pool" | "clock" | "giveLead">): Router {
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

    "PUT /cluster/leader": async (req, res, actor) => {
      const { instance } = await readBody(req, leaderSchema);
      const [instances, [lease]] = await Promise.all([findInstances(pool), findLeases(pool)]);
      const found = instances.find(({ name }) => name === instance);
      if (!found) throw new RelayError("not-found", { what: `The instance ${instance}` });
      if (!isAlive(found)) throw new RelayError("bad-request", { why: `${instance} does not run: it cannot lead` });
      if (instance === lease?.leader) return void res.status(204).end();
      await inTransaction(pool, async (db) => {
        await wantLeader(db, instance, WANTED_MS);
        const before = { leader: lease?.leader ?? null };
        await audit.record({ actor, action: "lead handed over", object: instance, before }, db);
      });
      res.status(204).end();
      giveLead(`${actor.name} hands the lead over to ${instance}`);
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
