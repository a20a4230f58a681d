/** Alerts: the list, and assigning, noting, snoozing, resolving. */
import type { AlertChangeBody, AlertView } from "@bold-relay/api";
import { alertChangeSchema, alertsQuerySchema } from "@bold-relay/api/schema";
import { HOUR_MS, RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { checked, readBody } from "../../http-exchange/body.ts";
import type { AlertWithState } from "../../reporting/alerts.ts";
import type { AlertState } from "../../store/alert-states.ts";
import { isWithin } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";

export function alertRoutes({
  guard,
  audit,
  clock,
  alerts,
}: Pick<HttpDeps, "guard" | "audit" | "clock" | "alerts">): Router {
  return guard.routes({
    "GET /alerts": async (req, res, { sites }) => {
      const { all = false } = checked(alertsQuerySchema, req.query);
      const shown = await alerts.current(all);
      res.json(shown.filter((alert) => isWithin(alert.site, sites)).map(alertView));
    },

    "POST /alerts": async (req, res, caller) => {
      const body = await readBody(req, alertChangeSchema);
      const known = alerts.list(true).find((one) => one.kind === body.kind && one.subject === body.subject);
      const gone = () => new RelayError("not-found", { what: "This alert: its cause is fixed, or it never was" });
      if (!known || !isWithin(known.site, caller.sites)) throw gone();
      const change = changeOf(body, known, caller.name, clock.now());
      const { kind: _, subject, ...after } = body;
      const object = `${known.title} (${subject})`;
      const changed = await guard.change(caller, async (db) => {
        const alert = await alerts.change(known.kind, known.subject, change, db);
        if (!alert) throw gone();
        await audit.record({ actor: caller, action: "alert changed", object, after }, db);
        return alert;
      });
      res.json(alertView(changed));
    },
  });
}

function changeOf(
  { assign, note, snoozeHours, resolve }: AlertChangeBody,
  { mark }: AlertWithState,
  name: string,
  now: number,
): Partial<AlertState> {
  return {
    ...(assign === undefined ? {} : { assignedTo: assign ? name : null }),
    ...(note === undefined ? {} : { note: note === "" ? null : note }),
    ...(snoozeHours === undefined ? {} : { snoozedUntil: snoozeHours === 0 ? null : now + snoozeHours * HOUR_MS }),
    ...(resolve === undefined ? {} : { resolvedMark: resolve ? mark : null }),
  };
}

function alertView({ kind, subject, site, title, text, mark, state }: AlertWithState): AlertView {
  return {
    kind,
    subject,
    site,
    title,
    text,
    since: new Date(state.firstSeen).toISOString(),
    assignedTo: state.assignedTo,
    note: state.note,
    snoozedUntil: state.snoozedUntil === null ? null : new Date(state.snoozedUntil).toISOString(),
    resolved: state.resolvedMark === mark,
  };
}
