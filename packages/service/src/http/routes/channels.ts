/** One channel, looked at closely. */
import type { DayView, HistoryView } from "@bold-relay/api";
import { dayQuerySchema, historyQuerySchema } from "@bold-relay/api/schema";
import { type ChannelEntry, RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { checked } from "../../http-exchange/body.ts";
import { dayView } from "../../reporting/day.ts";
import { historyView } from "../../reporting/history.ts";
import { isWithin } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";

export function channelRoutes(deps: HttpDeps): Router {
  const { guard, board } = deps;
  return guard.routes({
    /** Everything of the last 24 hours, and the answer in one line. */
    "GET /channels/:site/:device/:channel/day": async (req, res, { sites }) => {
      const { zone } = checked(dayQuerySchema, req.query);
      res.json((await dayView(channelAt(req.params, sites), zone ?? "UTC", deps)) satisfies DayView);
    },

    "GET /channels/:site/:device/:channel/history": async (req, res, { sites }) => {
      const { days = 1 } = checked(historyQuerySchema, req.query);
      res.json((await historyView(channelAt(req.params, sites), days, deps)) satisfies HistoryView);
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
