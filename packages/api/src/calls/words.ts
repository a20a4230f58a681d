/** How versions, addresses and queries stand in a call. */
import type { HistoryQuery, LogQuery } from "../ask.ts";
import type { MapQuery } from "../map-view.ts";
import type { StatisticsQuery } from "../statistics-view.ts";

/** RFC 9110, 13.1.1 and 13.1.2: only while it is at this version, or while there is none. */
export function ifMatch(version: number | null): Record<string, string> {
  if (version === null) return { "if-match": "*" };
  return version === 0 ? { "if-none-match": "*" } : { "if-match": `"${version}"` };
}

/** Slashes stay, everything else that means something in a path does not. */
export function addressPath(address: string): string {
  return address.split("/").map(encodeURIComponent).join("/");
}

/** @example queryText({ limit: 5, result: "refused" }) // → "?limit=5&result=refused" */
export function queryText(query: LogQuery | HistoryQuery | StatisticsQuery | MapQuery): string {
  const entries = Object.entries(query).filter(([, value]) => value !== undefined && value !== "");
  const text = new URLSearchParams(entries.map(([name, value]) => [name, String(value)])).toString();
  return text === "" ? "" : `?${text}`;
}
