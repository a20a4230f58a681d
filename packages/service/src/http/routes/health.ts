/** For whoever keeps the service running: is it alive, and is it ready to take requests? No sign-in, no details of sites. */
import { Router } from "express";
import { liveView } from "../../platform/version.ts";
import type { HttpDeps } from "../deps.ts";

export function healthRoutes({ status }: Pick<HttpDeps, "status">): Router {
  const router = Router({ caseSensitive: true });
  router.get("/live", (_req, res) => {
    res.json(liveView);
  });
  router.get("/ready", (_req, res) => {
    const waitsFor = status.waitsFor();
    // Our own words only: the database's name users and hosts, and whoever asks here has not signed in.
    const trouble = status.databaseTrouble?.split(" (")[0];
    const ready = waitsFor.length === 0;
    res.status(ready ? 200 : 503).json(trouble === undefined ? { ready, waitsFor } : { ready, waitsFor, trouble });
  });
  return router;
}
