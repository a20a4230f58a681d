/** Figures for a monitoring system: with a key of somebody who may look at every site; `most: viewer` is enough. */
import { RelayError } from "@bold-relay/core";
import type { Router } from "express";
import type { HttpParts } from "../parts.ts";
import { guardedRouter } from "../permissions.ts";

export function metricRoutes({ pool, metrics }: HttpParts): Router {
  return guardedRouter(pool, {
    "GET /metrics": async (_req, res, { name, sites }) => {
      if (sites !== null) throw new RelayError("not-permitted", { why: `${name} may not look at every site` });
      res.setHeader("content-type", metrics.registry.contentType);
      res.end(await metrics.registry.metrics());
    },
  });
}
