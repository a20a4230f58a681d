/** The filters of the Log page, kept in the address so that they can be sent to somebody. */
import { LOG_RESULTS, type LogQuery, type LogResult } from "@bold-relay/api";
import { useSearchChange } from "../../parts/use-search-change.ts";

export type Filters = Pick<LogQuery, "words" | "result" | "site" | "channel" | "asker">;

/** What each kind of end is called on the page. */
export const END_WORDS: Record<LogResult, string> = {
  delivered: "Delivered",
  "not-delivered": "Not delivered",
  replaced: "Replaced",
  refused: "Refused",
  open: "Open",
};

/** Empty or undefined: no longer narrowed by this. */
export type FilterChange = { readonly [Name in keyof Filters]?: Filters[Name] | "" | undefined };

export function useFilters(): [Filters, (change: FilterChange) => void] {
  const [params, change] = useSearchChange<keyof Filters>();
  const filters: Filters = {};
  for (const name of ["words", "site", "channel", "asker"] as const) {
    const value = params.get(name);
    if (value) filters[name] = value;
  }
  const result = LOG_RESULTS.find((end) => end === params.get("result"));
  if (result) filters.result = result;

  return [filters, change];
}
