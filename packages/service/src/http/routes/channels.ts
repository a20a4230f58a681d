/** One channel, looked at closely. */
import type { DayView } from "@bold-relay/api";
import { dayQuerySchema } from "@bold-relay/api/schema";
import { RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { dayView } from "../../view/day.ts";
import { checked } from "../body.ts";
import type { HttpParts } from "../parts.ts";
import { guardedRouter } from "../permissions.ts";

export function channelRoutes(parts: HttpParts): Router {
  const { pool, board } = parts;
  return guardedRouter(pool, {
    /** Everything of the last 24 hours, and the answer in one line. */
    "GET /channels/:site/:device/:channel/day": async (req, res, { sites }) => {
      const { site = "", device, channel } = req.params;
      const { zone } = checked(dayQuerySchema, req.query);
      const entry = board.snapshot.byAddress.get(`${site}/${device}/${channel}`);
      if (!entry || (sites !== null && !sites.includes(site)))
        throw new RelayError("not-found", { what: `Channel ${site}/${device}/${channel}` });
      res.json((await dayView(entry, zone ?? "UTC", parts)) satisfies DayView);
    },
  });
}
