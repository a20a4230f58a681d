/** A past arrival as two descriptions of its inlet would take it now: what would have changed? */
import type { PastView, TakenView } from "@bold-relay/api";
import type { Arrival } from "@bold-relay/core";
import type { Reception } from "../inlets/reception.ts";
import type { ArrivalRecord } from "../store/find-arrivals.ts";
import { type RehearsalParts, rehearsalView } from "./rehearsal.ts";

export function pastArrival(
  { request, at, words }: ArrivalRecord,
  arrival: Arrival,
  saved: Reception,
  edited: Reception,
  parts: RehearsalParts,
): PastView["arrivals"][number] {
  const [before, after] = [taken(saved, arrival, parts), taken(edited, arrival, parts)];
  const same = JSON.stringify({ ...before, route: null }) === JSON.stringify({ ...after, route: null });
  return { request, at: new Date(at).toISOString(), words, same, before, after };
}

function taken(reception: Reception, arrival: Arrival, parts: RehearsalParts): TakenView {
  const { would, route, asks, reply } = rehearsalView(reception.rehearse(arrival), parts);
  const does = asks.flatMap(({ sends, refusal }) => [
    ...sends.map(({ name, to }) => `${name} → ${to}`),
    ...(refusal === null ? [] : [refusal]),
  ]);
  return { would, route, does, reply: asks.length > 0 ? "" : reply };
}
