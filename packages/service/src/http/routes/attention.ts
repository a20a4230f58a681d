/** What needs attention: the list, and taking, noting, muting, closing. */
import type { CareBody, MatterView } from "@bold-relay/api";
import { attentionQuerySchema, careSchema } from "@bold-relay/api/schema";
import { HOUR_MS, RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { checked, readBody } from "../../http-exchange/body.ts";
import type { AlertWithState } from "../../reporting/alerts.ts";
import type { AlertState } from "../../store/attention.ts";
import { isWithin } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";

export function attentionRoutes({
  guard,
  audit,
  clock,
  alerts,
}: Pick<HttpDeps, "guard" | "audit" | "clock" | "alerts">): Router {
  return guard.routes({
    "GET /attention": (req, res, { sites }) => {
      const { all = false } = checked(attentionQuerySchema, req.query);
      res.json(
        alerts
          .list(all)
          .filter((matter) => isWithin(matter.site, sites))
          .map(matterView),
      );
    },

    "POST /attention": async (req, res, caller) => {
      const body = await readBody(req, careSchema);
      const known = alerts.list(true).find((one) => one.kind === body.kind && one.subject === body.subject);
      const gone = () => new RelayError("not-found", { what: "This matter: it has been cured, or never was" });
      if (!known || !isWithin(known.site, caller.sites)) throw gone();
      const change = changeOf(body, known, caller.name, clock.now());
      const cared = await alerts.care(known.kind, known.subject, change);
      if (!cared) throw gone();
      const { kind: _, subject, ...after } = body;
      const object = `${known.title} (${subject})`;
      await audit.record({ actor: caller, action: "attention", object, after });
      res.json(matterView(cared));
    },
  });
}

function changeOf(
  { take, note, muteHours, close }: CareBody,
  { mark }: AlertWithState,
  name: string,
  now: number,
): Partial<AlertState> {
  return {
    ...(take === undefined ? {} : { takenBy: take ? name : null }),
    ...(note === undefined ? {} : { note: note === "" ? null : note }),
    ...(muteHours === undefined ? {} : { mutedUntil: muteHours === 0 ? null : now + muteHours * HOUR_MS }),
    ...(close === undefined ? {} : { closedMark: close ? mark : null }),
  };
}

function matterView({ kind, subject, site, title, text, mark, care }: AlertWithState): MatterView {
  return {
    kind,
    subject,
    site,
    title,
    text,
    since: new Date(care.firstSeen).toISOString(),
    takenBy: care.takenBy,
    note: care.note,
    mutedUntil: care.mutedUntil === null ? null : new Date(care.mutedUntil).toISOString(),
    closed: care.closedMark === mark,
  };
}
