/** One channel, looked at closely. */
import type { HistoryView, TrendView } from "@bold-relay/api";
import { historyQuerySchema, trendQuerySchema } from "@bold-relay/api/schema";
import { type ChannelEntry, RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { checked } from "../../http-exchange/body.ts";
import { historyView } from "../../reporting/history.ts";
import { trendView } from "../../reporting/trend.ts";
import { isWithin } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";

export function channelRoutes(deps: HttpDeps): Router {
  const { guard, board } = deps;
  return guard.routes({
    /** Everything of the last 24 hours, and the answer in one line. */
    "GET /channels/:site/:device/:channel/history": async (req, res, { sites }) => {
      const query = checked(historyQuerySchema, req.query);
      res.json((await historyView(channelAt(req.params, sites), query, deps)) satisfies HistoryView);
    },

    "GET /channels/:site/:device/:channel/trend": async (req, res, { sites }) => {
      const { days = 1 } = checked(trendQuerySchema, req.query);
      res.json((await trendView(channelAt(req.params, sites), days, deps)) satisfies TrendView);
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
