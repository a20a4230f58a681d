/** How well it runs: figures of days, sites, devices and inlets; the same as a table for a spreadsheet. */
import { FIGURE_TABLES, type FiguresQuery, type FiguresView } from "@bold-relay/api";
import { figuresCsvSchema, figuresQuerySchema } from "@bold-relay/api/schema";
import { RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { figuresCsv } from "../../view/figures-csv.ts";
import { checked } from "../body.ts";
import type { HttpParts } from "../parts.ts";
import { guardedRouter, isWithin } from "../permissions.ts";

export function figureRoutes({ pool, board, figures }: HttpParts): Router {
  return guardedRouter(pool, {
    "GET /figures": async (req, res, { sites }) => {
      const query = checked(figuresQuerySchema, req.query);
      res.json((await figures.view(query, within(query, sites))) satisfies FiguresView);
    },

    /** CSV (RFC 4180): one of its tables. */
    "GET /figures.csv": async (req, res, { sites }) => {
      const { table = FIGURE_TABLES[0], ...query } = checked(figuresCsvSchema, req.query);
      const view = await figures.view(query, within(query, sites));
      res.setHeader("content-type", "text/csv; charset=utf-8");
      res.setHeader("content-disposition", `attachment; filename="figures-${table}-${view.from}-${view.to}.csv"`);
      res.send(figuresCsv(view[table]));
    },
  });

  /** @returns the sites whose figures are shown; null: all of them */
  function within({ site }: FiguresQuery, sites: readonly string[] | null): readonly string[] | null {
    if (site === undefined) return sites;
    if (!isWithin(site, sites) || !board.snapshot.channels.some((channel) => channel.site.slug === site))
      throw new RelayError("not-found", { what: `Site ${site}` });
    return [site];
  }
}
