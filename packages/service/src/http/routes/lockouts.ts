/** Lock-out: taking a channel or a device, and letting it go. */
import { lockOutSchema, releaseSchema } from "@bold-relay/api/schema";
import type { Router } from "express";
import { lockoutView } from "../../view/channel-view.ts";
import { readBody } from "../body.ts";
import type { HttpParts } from "../parts.ts";
import { guardedRouter } from "../permissions.ts";

export function lockoutRoutes({ pool, lockouts }: HttpParts): Router {
  return guardedRouter(pool, {
    "POST /lockouts": async (req, res, { name, sites }) => {
      const { target, reason } = await readBody(req, lockOutSchema);
      res.status(201).json(lockoutView(await lockouts.hold(target, { name, sites }, reason ?? null)));
    },

    "POST /lockouts/:id/release": async (req, res, { name, sites, standing }) => {
      const { reason } = await readBody(req, releaseSchema);
      const by = { name, sites, mayOverrule: standing.team === "owner" };
      await lockouts.release(req.params.id ?? "", by, reason ?? null);
      res.status(204).end();
    },
  });
}
