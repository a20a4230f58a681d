/** Calls about the map: who or what can switch what. */
import type { MapFindingView, MapQuery, MapReachPageView, MapView } from "../map-view.ts";
import type { Sender } from "./sender.ts";
import { queryText } from "./words.ts";

export function mapCalls({ send, json }: Sender) {
  return {
    /** The map as a drawing in four columns; with `of` only what leads to that element and what it leads to. */
    map: (query: MapQuery = {}) => json<MapView>(send("GET", `/api/v1/map${queryText(query)}`)),
    /** The same as a table: a row for each thing that can happen. */
    mapReach: (query: MapQuery = {}) => json<MapReachPageView>(send("GET", `/api/v1/map/reach${queryText(query)}`)),
    /** The same as CSV (RFC 4180): a row for each channel that a catch reaches. */
    mapTable: async (query: MapQuery = {}) => (await send("GET", `/api/v1/map/reach.csv${queryText(query)}`)).text(),
    /** What is unused, cannot act, or is open to more than its owner may think. */
    mapFindings: (query: Pick<MapQuery, "site"> = {}) =>
      json<MapFindingView[]>(send("GET", `/api/v1/map/findings${queryText(query)}`)),
  };
}
