/** Where a request is answered, by method and address alone. */
import { expect, it } from "vitest";
import { type Place, placeOf } from "../../src/sharing/place.ts";

const site = { at: "site", site: "alder-row" } as const;
const [here, first] = [{ at: "here" } as const, { at: "first" } as const];
const ID = "01a22f54-d905-7915-89c1-a288db1afcc5";

it.each<[string, string, Place]>([
  ["PUT", "/api/v1/sites/alder-row/description", site],
  ["GET", "/api/v1/sites/alder-row/description?x=1", site],
  ["POST", "/api/v1/devices/alder-row/wren/commissioning", site],
  ["GET", "/api/v1/channels/alder-row/wren/porch/history", site],
  ["GET", "/api/v1/wire?filter=alder-row%2Fwren%2F%23", site],
  ["GET", "/api/v1/wire?all=true&filter=alder-row/%23", site],
  ["GET", "/api/v1/wire?filter=%23", here],
  ["POST", "/api/v1/wire", first],
  ["GET", "/api/v1/board", here],
  ["GET", "/api/v1/live", here],
  ["GET", "/api/v1/requests?limit=5", here],
  ["GET", "/api/v1/requests.csv", here],
  ["POST", "/api/v1/requests", here],
  ["POST", "/api/v1/requests/rehearse", here],
  ["POST", `/api/v1/lockouts/${ID}/release`, here],
  ["GET", `/api/v1/requests/${ID}`, { at: "request", request: ID }],
  ["POST", `/api/v1/requests/${ID}/cancel`, { at: "request", request: ID }],
  ["POST", "/in/hall-tablet", { at: "inlet", inlet: "hall-tablet" }],
  ["GET", "/in/lift?pin=1", { at: "inlet", inlet: "lift" }],
  ["POST", "/api/v1/session", first],
  ["GET", "/api/v1/alerts", first],
  ["GET", "/api/v1/boarding", first],
  ["PUT", "/api/v1/cluster/shards", first],
  ["GET", "/index.html", here],
  ["GET", "/metrics", here],
])("%s %s", (method, url, place) => {
  expect(placeOf(method, url)).toEqual(place);
});
