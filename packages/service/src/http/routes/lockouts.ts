/** Lock-out: taking a channel or a device, and letting it go. */
import { lockOutSchema, releaseSchema } from "@bold-relay/api/schema";
import { Router } from "express";
import { identify } from "../../auth/identify.ts";
import { lockoutView } from "../../view/channel-view.ts";
import { readBody } from "../body.ts";
import type { HttpParts } from "../parts.ts";

export function lockoutRoutes({ pool, lockouts }: HttpParts): Router {
  const router = Router();

  router.post("/lockouts", async (req, res) => {
    const { name } = await identify(pool, req);
    const { target, reason } = await readBody(req, lockOutSchema);
    res.status(201).json(lockoutView(await lockouts.hold(target, name, reason ?? null)));
  });

  router.post("/lockouts/:id/release", async (req, res) => {
    const { name } = await identify(pool, req);
    const { reason } = await readBody(req, releaseSchema);
    await lockouts.release(req.params.id, name, reason ?? null);
    res.status(204).end();
  });

  return router;
}
