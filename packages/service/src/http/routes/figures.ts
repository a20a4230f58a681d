/** How well it runs: figures of days, sites, devices and inlets; the same as a table for a spreadsheet. */
import { FIGURE_TABLES, type FiguresQuery, type FiguresView } from "@bold-relay/api";
import { figuresCsvSchema, figuresQuerySchema } from "@bold-relay/api/schema";
import type { Router } from "express";
import { checked } from "../../http-exchange/body.ts";
import { figuresCsv } from "../../reporting/statistics-csv.ts";
import { narrowed } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";

export function figureRoutes({
  guard,
  board,
  statistics,
  inlets,
}: Pick<HttpDeps, "guard" | "board" | "statistics" | "inlets">): Router {
  const viewOf = (query: FiguresQuery, sites: readonly string[] | null) => {
    const inletNames = new Map(inlets.all.map(({ record: { inlet } }) => [inlet.slug, inlet.name]));
    return statistics.view(query, narrowed(query.site, sites, board.snapshot), inletNames);
  };
  return guard.routes({
    "GET /figures": async (req, res, { sites }) => {
      const query = checked(figuresQuerySchema, req.query);
      res.json((await viewOf(query, sites)) satisfies FiguresView);
    },

    /** CSV (RFC 4180): one of its tables. */
    "GET /figures.csv": async (req, res, { sites }) => {
      const { table = FIGURE_TABLES[0], ...query } = checked(figuresCsvSchema, req.query);
      const view = await viewOf(query, sites);
      res.setHeader("content-type", "text/csv; charset=utf-8");
      res.setHeader("content-disposition", `attachment; filename="figures-${table}-${view.from}-${view.to}.csv"`);
      res.send(figuresCsv(view[table]));
    },
  });
}
