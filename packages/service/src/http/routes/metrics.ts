/** DeliveryStatistics for a monitoring system: with a key of somebody who may look at every site; `most: reader` is enough. */
import { RelayError } from "@bold-relay/core";
import type { Router } from "express";
import type { HttpDeps } from "../deps.ts";

export function metricRoutes({ guard, metrics }: Pick<HttpDeps, "guard" | "metrics">): Router {
  return guard.routes({
    "GET /metrics": async (_req, res, { name, sites }) => {
      if (sites !== null) throw new RelayError("not-permitted", { why: `${name} may not look at every site` });
      res.setHeader("content-type", metrics.registry.contentType);
      res.end(await metrics.registry.metrics());
    },
  });
}
