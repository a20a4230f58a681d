/** DeliveryStatistics as a table for a spreadsheet. */
import type { GroupStatistics } from "@bold-relay/api";
import { TIMED_HOPS } from "@bold-relay/core";
import { stringify } from "csv-stringify/sync";

const COLUMNS = [
  "key",
  "name",
  "commands",
  "delivered",
  "successRate",
  "replaced",
  "failed",
  "unanswered",
  "expired",
  "proven by broker only",
  "proven acknowledged",
  "proven confirmed",
  "proven measured",
  "refused",
  "not-understood",
  ...TIMED_HOPS.flatMap((hop) => [`${hop} p50 ms`, `${hop} p95 ms`]),
];

export function statisticsCsv(rows: readonly GroupStatistics[]): string {
  // A name that somebody gave must not become a formula in somebody's spreadsheet.
  return stringify([COLUMNS, ...rows.map(row)], { escape_formulas: true });
}

function row({
  key,
  name,
  commands,
  delivered,
  successRate,
  replaced,
  missed,
  proven,
  refused,
  notUnderstood,
  times,
}: GroupStatistics) {
  return [
    key,
    name,
    commands,
    delivered,
    successRate === null ? null : successRate.toFixed(4),
    replaced,
    missed.failed,
    missed.unanswered,
    missed.expired,
    proven.published,
    proven.acknowledged,
    proven.confirmed,
    proven.measured,
    refused,
    notUnderstood,
    ...TIMED_HOPS.flatMap((hop) => [times[hop]?.p50.toFixed(1) ?? null, times[hop]?.p95.toFixed(1) ?? null]),
  ];
}
