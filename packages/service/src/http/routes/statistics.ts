/** How well it runs: statistics of days, sites, devices and inlets; the same as a table for a spreadsheet. */
import { STATISTICS_TABLES, type StatisticsQuery, type StatisticsView } from "@bold-relay/api";
import { statisticsCsvSchema, statisticsQuerySchema } from "@bold-relay/api/schema";
import type { Router } from "express";
import { checked } from "../../http-exchange/body.ts";
import { statisticsCsv } from "../../reporting/statistics-csv.ts";
import { narrowed } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";

export function statisticsRoutes({
  guard,
  board,
  statistics,
  inlets,
}: Pick<HttpDeps, "guard" | "board" | "statistics" | "inlets">): Router {
  const viewOf = (query: StatisticsQuery, sites: readonly string[] | null) => {
    const inletNames = new Map(inlets.all.map(({ record: { inlet } }) => [inlet.slug, inlet.name]));
    return statistics.view(query, narrowed(query.site, sites, board.snapshot), inletNames);
  };
  return guard.routes({
    "GET /statistics": async (req, res, { sites }) => {
      const query = checked(statisticsQuerySchema, req.query);
      res.json((await viewOf(query, sites)) satisfies StatisticsView);
    },

    /** CSV (RFC 4180): one of its tables. */
    "GET /statistics.csv": async (req, res, { sites }) => {
      const { table = STATISTICS_TABLES[0], ...query } = checked(statisticsCsvSchema, req.query);
      const view = await viewOf(query, sites);
      res.setHeader("content-type", "text/csv; charset=utf-8");
      res.setHeader("content-disposition", `attachment; filename="statistics-${table}-${view.from}-${view.to}.csv"`);
      res.send(statisticsCsv(view[table]));
    },
  });
}
