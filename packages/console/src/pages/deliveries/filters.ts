/** The filters of the Deliveries page, kept in the address so that they can be sent to somebody. */
import { DELIVERY_ENDS, type DeliveryEnd, type DeliveryQuery } from "@bold-relay/api";
import { useSearchChange } from "../../parts/use-search-change.ts";

export type Filters = Pick<DeliveryQuery, "words" | "ended" | "site" | "channel" | "asker">;

/** What each kind of end is called on the page. */
export const END_WORDS: Record<DeliveryEnd, string> = {
  reached: "Reached",
  stopped: "Stopped",
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
  const ended = DELIVERY_ENDS.find((end) => end === params.get("ended"));
  if (ended) filters.ended = ended;

  return [filters, change];
}
