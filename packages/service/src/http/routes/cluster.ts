/** The instances that run beside each other: answered by the one that leads, from what each tells of itself. */
import type { ClusterView } from "@bold-relay/api";
import { leaderSchema, shardCountSchema, shardSchema } from "@bold-relay/api/schema";
import { clusterFindings, isAlive, RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { holdRight } from "../../auth/still-permitted.ts";
import { readBody } from "../../http-exchange/body.ts";
import { findInstances, findLeases, type InstanceRecord, type LeaseRecord } from "../../store/instances.ts";
import { chooseLeader, findShardLeases, wantLeader } from "../../store/leases.ts";
import { requireKnownSite } from "../../store/model.ts";
import { changeShardCount } from "../../store/shards.ts";
import type { HttpDeps } from "../deps.ts";

/** So long nobody else takes the lead that was handed over, ms. */
const WANTED_MS = 10_000;

export function clusterRoutes({
  guard,
  audit,
  pool,
  clock,
  lookNow,
  moveSite,
}: Pick<HttpDeps, "guard" | "audit" | "pool" | "clock" | "lookNow" | "moveSite">): Router {
  return guard.routes({
    "GET /cluster": async (_req, res) => {
      const [instances, shards] = await Promise.all([findInstances(pool), findLeases(pool)]);
      const [first] = shards;
      const leader = first?.leader ?? null;
      res.json({
        at: new Date(clock.now()).toISOString(),
        leader,
        since: new Date(first?.since ?? 0).toISOString(),
        shards: shards.map(({ since, sites, ...shard }) => ({
          ...shard,
          since: new Date(since).toISOString(),
          sites: [...sites],
        })),
        instances: instances.map((one) => instanceView(one, shards)),
        findings: clusterFindings(instances, shards),
      } satisfies ClusterView);
    },

    "PUT /cluster/shards": async (req, res, actor) => {
      const { count } = await readBody(req, shardCountSchema);
      await guard.change(actor, async (db) => {
        const before = { shards: (await findShardLeases(db)).length };
        await changeShardCount(db, count);
        await audit.record(
          { actor, action: "number of shards changed", object: "cluster", before, after: { shards: count } },
          db,
        );
      });
      res.status(204).end();
      lookNow();
    },

    "PUT /sites/:site/shard": async (req, res, actor) => {
      const { site } = req.params as { site: string };
      const { shard } = await readBody(req, shardSchema);
      await requireKnownSite(pool, site);
      if (!(await findShardLeases(pool)).some((one) => one.shard === shard))
        throw new RelayError("not-found", { what: `Shard ${shard}` });
      const action = "site moved to a shard";
      await moveSite(site, shard, async (db) => {
        await holdRight(db, actor);
        await audit.record({ actor, action, object: site, after: { shard } }, db);
      });
      res.status(204).end();
    },

    "PUT /cluster/leader": async (req, res, actor) => {
      const body = await readBody(req, leaderSchema);
      const { instance, shard = 0 } = body;
      const [instances, shards] = await Promise.all([findInstances(pool), findLeases(pool)]);
      const isOnly = shards.length === 1;
      if (!isOnly && body.shard === undefined)
        throw new RelayError("bad-request", { why: `There are ${shards.length} shards. Name the one that is meant` });
      const lease = shards.find((one) => one.shard === shard);
      if (!lease) throw new RelayError("not-found", { what: `Shard ${shard}` });
      if (instance !== null) requireAble(instances, instance, isOnly);
      else if (isOnly) throw new RelayError("bad-request", { why: "Name the instance that is to lead" });
      if (isOnly && instance === lease.leader) return void res.status(204).end();
      await guard.change(actor, async (db) => {
        if (isOnly && instance !== null) await wantLeader(db, shard, instance, WANTED_MS);
        else await chooseLeader(db, shard, instance);
        const object = isOnly ? (instance ?? "") : `shard ${shard}`;
        const after = isOnly ? {} : { after: { leader: instance ?? "any" } };
        await audit.record(
          {
            actor,
            action: isOnly ? "lead handed over" : "leader of a shard chosen",
            object,
            before: { leader: lease.leader },
            ...after,
          },
          db,
        );
      });
      res.status(204).end();
      lookNow();
    },
  });
}

/** @throws RelayError unless it runs, and reaches the broker */
function requireAble(instances: readonly InstanceRecord[], instance: string, isOnly: boolean): void {
  const found = instances.find(({ name }) => name === instance);
  if (!found) throw new RelayError("not-found", { what: `The instance ${instance}` });
  if (!isAlive(found)) throw new RelayError("bad-request", { why: `${instance} does not run: it cannot lead` });
  if (found.brokerReached === false)
    throw new RelayError("bad-request", { why: `${instance} does not reach the broker: it cannot lead` });
  if (!isOnly && !found.knowsShards)
    throw new RelayError("bad-request", { why: `${instance} runs version ${found.version}, which leads no shard` });
}

function instanceView(
  { run: _, secretsMark: __, knowsShards: ___, startedAt, ...one }: InstanceRecord,
  shards: readonly LeaseRecord[],
) {
  const led = shards.filter(({ leader }) => leader === one.name).map(({ shard }) => shard);
  return {
    ...one,
    startedAt: new Date(startedAt).toISOString(),
    alive: isAlive(one),
    leads: led.length > 0,
    shards: led,
  };
}
