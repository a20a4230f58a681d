/** The map: who or what can switch what, as a drawing, as a table, and what is unused or dangerous about it. */
import type { MapFindingView, MapQuery, MapReachPageView, MapView } from "@bold-relay/api";
import { mapQuerySchema } from "@bold-relay/api/schema";
import {
  type ChannelEntry,
  type ElementGroup,
  findElement,
  type MapSelection,
  RelayError,
  type RelayMap,
  selectAround,
  sitesWith,
} from "@bold-relay/core";
import type { Router } from "express";
import type { Admitted } from "../../auth/caller.ts";
import { checked } from "../../http-exchange/body.ts";
import { MapReport } from "../../reporting/map.ts";
import { findChannelUses, findCountedSince, findWayUses } from "../../store/way-use.ts";
import {
  findingViews,
  MOST_TABLE_ROWS,
  mapView,
  reachPageView,
  reachTable,
  tableRows,
  UNUSED_DAYS,
  USE_DAYS,
} from "../../views/map-view.ts";
import { isWithin, narrowed } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";

type MapDeps = Pick<HttpDeps, "guard" | "board" | "inlets" | "pool" | "lockouts" | "clock" | "ways">;

/** A part of the map that somebody chose. */
interface ChosenPart {
  readonly map: RelayMap;
  readonly of: ElementGroup | null;
  readonly selection: MapSelection;
  /** Inlets that reach the same and may not be seen. */
  readonly hidden: number;
  /** Where one channel was chosen. */
  readonly entry: ChannelEntry | null;
}

export function mapRoutes({ guard, board, inlets, pool, lockouts, clock, ways }: MapDeps): Router {
  const report = new MapReport({ pool, board, inlets, lockouts });

  /** @throws RelayError not-on-map when nothing is called so, or nothing that the caller may see */
  async function chosen({ of, site }: MapQuery, { sites, standing }: Admitted): Promise<ChosenPart> {
    const within = narrowed(site, sites, board.snapshot);
    const { map, whole, snapshot } = await report.seenFrom(sites, sitesWith(standing, "build"));
    const found = of === undefined ? null : findElement(map, snapshot, of, sites);
    if (found && !("element" in found))
      throw new RelayError("not-on-map", { target: (of ?? "").slice(0, 100), nearest: [...found.nearest] });
    const element = found?.element ?? null;
    const id = element?.id ?? null;
    const selection = selectAround(map, id, within) ?? { links: [], idle: [] };
    const entry = map.channels.find(({ address }) => id === `channel:${address}`) ?? null;
    return { map, of: element, selection, hidden: hiddenInlets(whole, id, sites), entry };
  }

  return guard.routes({
    "GET /map": async (req, res, caller) => {
      const { map, of, selection, hidden } = await chosen(checked(mapQuerySchema, req.query), caller);
      res.json(mapView(map, of, selection, hidden) satisfies MapView);
    },

    "GET /map/reach": async (req, res, caller) => {
      const part = await chosen(checked(mapQuerySchema, req.query), caller);
      await ways.flush();
      const { entry } = part;
      const [uses, countedSince] = await Promise.all([
        entry ? findChannelUses(pool, entry.id, USE_DAYS) : findWayUses(pool, USE_DAYS),
        findCountedSince(pool),
      ]);
      const channel = entry && { entry, obstacles: report.obstaclesOf(entry) };
      res.json(reachPageView({ ...part, uses, countedSince, channel }) satisfies MapReachPageView);
    },

    /** CSV (RFC 4180). */
    "GET /map/reach.csv": async (req, res, caller) => {
      const { map, selection } = await chosen(checked(mapQuerySchema, req.query), caller);
      if (tableRows(selection) > MOST_TABLE_ROWS) {
        const why = `The table would have more than ${MOST_TABLE_ROWS} rows. Choose a site or an element`;
        throw new RelayError("bad-request", { why });
      }
      res.setHeader("content-type", "text/csv; charset=utf-8");
      res.setHeader("content-disposition", 'attachment; filename="map.csv"');
      res.send(reachTable(map, selection));
    },

    "GET /map/findings": async (req, res, caller) => {
      const { site } = checked(mapQuerySchema, req.query);
      const within = narrowed(site, caller.sites, board.snapshot);
      const seen = await report.seenFrom(caller.sites, sitesWith(caller.standing, "build"));
      await ways.flush();
      const [uses, since] = await Promise.all([findWayUses(pool, UNUSED_DAYS), findCountedSince(pool)]);
      const all = findingViews(seen.map, seen.inlets, uses, since, clock.now());
      const shown = all.filter((one) => site === undefined || isWithin(one.site, within));
      res.json(shown satisfies MapFindingView[]);
    },
  });
}

/** How many inlets reach the same, and belong to the whole team or to sites that the caller may not see. */
function hiddenInlets(whole: RelayMap, id: string | null, sites: readonly string[] | null): number {
  if (sites === null) return 0;
  const { links = [] } = selectAround(whole, id, sites) ?? {};
  const hidden = links.filter(({ caught: { inlet, site } }) => inlet !== null && !isWithin(site, sites));
  return new Set(hidden.map(({ caught }) => caught.inlet)).size;
}
