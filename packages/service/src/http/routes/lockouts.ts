/** Lock-out: taking a channel or a device, and letting it go. */
import { lockOutSchema, releaseSchema } from "@bold-relay/api/schema";
import type { Router } from "express";
import { readBody } from "../../http-exchange/body.ts";
import type { Change } from "../../state/lockouts.ts";
import { lockoutView } from "../../views/channel-view.ts";
import type { HttpDeps } from "../deps.ts";

export function lockoutRoutes({ guard, lockouts, handOn }: Pick<HttpDeps, "guard" | "lockouts" | "handOn">): Router {
  return guard.routes({
    "POST /lockouts": async (req, res, caller) => {
      const body = await readBody(req, lockOutSchema);
      const { target, reason } = body;
      if (handOn(req, res, lockouts.siteNamed(target, caller.sites), body)) return;
      const change: Change = (store) => guard.change(caller, store);
      res.status(201).json(lockoutView(await lockouts.lock(target, { ...caller, change }, reason ?? null)));
    },

    "POST /lockouts/:id/release": async (req, res, caller) => {
      const body = await readBody(req, releaseSchema);
      const { reason } = body;
      if (handOn(req, res, lockouts.siteOf(req.params.id ?? ""), body)) return;
      const change: Change = (store) => guard.change(caller, store);
      const mayOverrule = caller.standing.team === "owner";
      await lockouts.release(req.params.id ?? "", { ...caller, change, mayOverrule }, reason ?? null);
      res.status(204).end();
    },
  });
}
