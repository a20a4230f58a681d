/** Lock-out: taking a channel or a device, and letting it go. */
import { lockOutSchema, releaseSchema } from "@bold-relay/api/schema";
import type { Router } from "express";
import { lockoutView } from "../../view/channel-view.ts";
import { readBody } from "../body.ts";
import type { HttpParts } from "../parts.ts";

export function lockoutRoutes({ guard, lockouts }: HttpParts): Router {
  return guard.routes({
    "POST /lockouts": async (req, res, caller) => {
      const { target, reason } = await readBody(req, lockOutSchema);
      res.status(201).json(lockoutView(await lockouts.hold(target, caller, reason ?? null)));
    },

    "POST /lockouts/:id/release": async (req, res, caller) => {
      const { reason } = await readBody(req, releaseSchema);
      const mayOverrule = caller.standing.team === "owner";
      await lockouts.release(req.params.id ?? "", { ...caller, mayOverrule }, reason ?? null);
      res.status(204).end();
    },
  });
}
