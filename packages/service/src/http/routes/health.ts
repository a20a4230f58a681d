/** For whoever keeps the service running: is it alive, and is it ready to take requests? No sign-in, no details of sites. */
import { Router } from "express";
import type { HttpParts } from "../parts.ts";

export function healthRoutes({ status }: Pick<HttpParts, "status">): Router {
  const router = Router();
  router.get("/live", (_req, res) => {
    res.json({ alive: true });
  });
  router.get("/ready", (_req, res) => {
    const waitsFor = status.waitsFor();
    res.status(waitsFor.length === 0 ? 200 : 503).json({ ready: waitsFor.length === 0, waitsFor });
  });
  return router;
}
