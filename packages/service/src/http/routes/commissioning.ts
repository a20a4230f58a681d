/** Proving a device step by step. */
import type { CommissioningView } from "@bold-relay/api";
import { stepAnswerSchema } from "@bold-relay/api/schema";
import { RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { requireSite } from "../../auth/caller.ts";
import { readBody } from "../../http-exchange/body.ts";
import type { CommissioningRecord } from "../../store/commissionings.ts";
import type { HttpDeps } from "../deps.ts";

export function commissioningRoutes({ guard, board, runs }: Pick<HttpDeps, "guard" | "board" | "runs">): Router {
  const view = (record: CommissioningRecord) => commissioningView(record, runs.runs(record));
  return guard.routes({
    /** The run that stands, or the last one, and those before it. */
    "GET /devices/:site/:device/commissioning": async (req, res, caller) => {
      const { site = "", device = "" } = req.params;
      requireSite(caller, site);
      const [first] = board.channelsOf(`${site}/${device}`);
      if (!first) throw new RelayError("not-found", { what: `The device ${site}/${device}` });
      res.json((await runs.records(first.device.address, first.device.id)).map(view));
    },

    "POST /devices/:site/:device/commissioning": async (req, res, caller) => {
      requireSite(caller, req.params.site ?? "");
      await guard.confirm(caller);
      res.status(201).json(view(runs.start(`${req.params.site}/${req.params.device}`, caller.name)));
    },

    /** Begins a step, says what was seen, or leaves it out. */
    "POST /devices/:site/:device/commissioning/step": async (req, res, caller) => {
      requireSite(caller, req.params.site ?? "");
      const device = `${req.params.site}/${req.params.device}`;
      const { step, answer, note } = await readBody(req, stepAnswerSchema);
      await guard.confirm(caller);
      const record =
        answer === "go"
          ? runs.go(device, step, caller.asker)
          : runs.say(device, step, answer, caller.name, note ?? null);
      res.json(view(record));
    },
  });
}

function commissioningView(
  { id, startedBy, startedAt, finishedAt, steps }: CommissioningRecord,
  isRunning: boolean,
): CommissioningView {
  return {
    id,
    interrupted: finishedAt === null && !isRunning,
    startedBy,
    startedAt: new Date(startedAt).toISOString(),
    finishedAt: finishedAt === null ? null : new Date(finishedAt).toISOString(),
    steps: steps.map(({ at, ...step }) => ({ ...step, at: at === null ? null : new Date(at).toISOString() })),
  };
}
