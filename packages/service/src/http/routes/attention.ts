/** What needs attention: the list, and taking, noting, muting, closing. */
import type { CareBody, MatterView } from "@bold-relay/api";
import { attentionQuerySchema, careSchema } from "@bold-relay/api/schema";
import { RelayError } from "@bold-relay/core";
import type { Router } from "express";
import type { CaredMatter } from "../../attention/attention.ts";
import type { Care } from "../../store/attention.ts";

import { isWithin } from "../../view/reach.ts";
import { checked, readBody } from "../body.ts";
import type { HttpParts } from "../parts.ts";

const HOUR_MS = 3_600_000;

export function attentionRoutes({ guard, audit, clock, attention }: HttpParts): Router {
  return guard.routes({
    "GET /attention": (req, res, { sites }) => {
      const { all = false } = checked(attentionQuerySchema, req.query);
      res.json(
        attention
          .list(all)
          .filter((matter) => isWithin(matter.site, sites))
          .map(matterView),
      );
    },

    "POST /attention": async (req, res, caller) => {
      const body = await readBody(req, careSchema);
      const known = attention.list(true).find((one) => one.kind === body.kind && one.subject === body.subject);
      const gone = () => new RelayError("not-found", { what: "This matter: it has been cured, or never was" });
      if (!known || !isWithin(known.site, caller.sites)) throw gone();
      const change = changeOf(body, known, caller.name, clock.now());
      const cared = await attention.care(known.kind, known.subject, change);
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
  { mark }: CaredMatter,
  name: string,
  now: number,
): Partial<Care> {
  return {
    ...(take === undefined ? {} : { takenBy: take ? name : null }),
    ...(note === undefined ? {} : { note: note === "" ? null : note }),
    ...(muteHours === undefined ? {} : { mutedUntil: muteHours === 0 ? null : now + muteHours * HOUR_MS }),
    ...(close === undefined ? {} : { closedMark: close ? mark : null }),
  };
}

function matterView({ kind, subject, site, title, text, mark, care }: CaredMatter): MatterView {
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
