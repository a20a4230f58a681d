/** How well it runs: what can be asked for, and what is told. */
import type { Figures } from "@bold-relay/core";

/** Of GET /api/v1/figures. Days begin and end in the service's time zone. */
export interface FiguresQuery {
  /** How many days up to `to`, 1 to 400, where `from` is not given; default 7. */
  days?: number;
  /** The first day, 2026-11-01. */
  from?: string;
  /** The last one; default today. */
  to?: string;
  /** One site only. */
  site?: string;
}

/** Figures of a group: a day, a site, a device, an inlet. */
export interface GroupFigures extends Figures {
  /** The day, the site's slug, the device's address or the inlet's slug. */
  readonly key: string;
  readonly name: string;
}

/** GET /api/v1/figures. Busiest first, days oldest first. */
export interface FiguresView {
  /** IANA time zone. */
  zone: string;
  /** First and last day, both included. */
  from: string;
  to: string;
  /** Days that are not in it, for they are still being counted. */
  uncountedDays: number;
  all: Figures;
  days: GroupFigures[];
  sites: GroupFigures[];
  devices: GroupFigures[];
  inlets: GroupFigures[];
}

export const FIGURE_TABLES = ["days", "sites", "devices", "inlets"] as const;
export type FigureTable = (typeof FIGURE_TABLES)[number];
