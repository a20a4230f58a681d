/** One channel, looked at closely. */
import type { DayView, HistoryView } from "@bold-relay/api";
import { dayQuerySchema, historyQuerySchema } from "@bold-relay/api/schema";
import { type ChannelEntry, RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { dayView } from "../../view/day.ts";
import { historyView } from "../../view/history.ts";
import { isWithin } from "../../view/reach.ts";
import { checked } from "../body.ts";
import type { HttpParts } from "../parts.ts";

export function channelRoutes(parts: HttpParts): Router {
  const { guard, board } = parts;
  return guard.routes({
    /** Everything of the last 24 hours, and the answer in one line. */
    "GET /channels/:site/:device/:channel/day": async (req, res, { sites }) => {
      const { zone } = checked(dayQuerySchema, req.query);
      res.json((await dayView(channelAt(req.params, sites), zone ?? "UTC", parts)) satisfies DayView);
    },

    "GET /channels/:site/:device/:channel/history": async (req, res, { sites }) => {
      const { days = 1 } = checked(historyQuerySchema, req.query);
      res.json((await historyView(channelAt(req.params, sites), days, parts)) satisfies HistoryView);
    },
  });

  function channelAt(
    { site = "", device, channel }: Record<string, string>,
    sites: readonly string[] | null,
  ): ChannelEntry {
    const entry = board.snapshot.byAddress.get(`${site}/${device}/${channel}`);
    if (entry && isWithin(site, sites)) return entry;
    throw new RelayError("not-found", { what: `Channel ${site}/${device}/${channel}` });
  }
}
