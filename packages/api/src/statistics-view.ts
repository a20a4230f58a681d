/** How well it runs: what can be asked for, and what is told. */
import type { DeliveryStatistics } from "@bold-relay/core";

/** Of GET /api/v1/statistics. Days begin and end in the service's time zone. */
export interface StatisticsQuery {
  /** How many days up to `to`, 1 to 400, where `from` is not given; default 7. */
  days?: number;
  /** The first day, 2026-11-01. */
  from?: string;
  /** The last one; default today. */
  to?: string;
  /** One site only. */
  site?: string;
}

/** DeliveryStatistics of a group: a day, a site, a device, an inlet. */
export interface GroupStatistics extends DeliveryStatistics {
  /** The day, the site's slug, the device's address or the inlet's slug. */
  readonly key: string;
  readonly name: string;
}

/** GET /api/v1/statistics. Busiest first, days oldest first. */
export interface StatisticsView {
  /** IANA time zone. */
  zone: string;
  /** First and last day, both included. */
  from: string;
  to: string;
  /** Days that are not in it, for they are still being counted. */
  uncountedDays: number;
  all: DeliveryStatistics;
  days: GroupStatistics[];
  sites: GroupStatistics[];
  devices: GroupStatistics[];
  inlets: GroupStatistics[];
}

export const STATISTICS_TABLES = ["days", "sites", "devices", "inlets"] as const;
export type StatisticsTable = (typeof STATISTICS_TABLES)[number];
