/** A past arrival as two descriptions of its inlet would take it now: what would have changed? */
import type { PastView, TakenView } from "@bold-relay/api";
import type { Arrival } from "@bold-relay/core";
import type { InletHandler } from "../inlets/handler.ts";
import { type RehearsalDeps, rehearsalView } from "../requests/rehearse.ts";
import type { ArrivalRecord } from "../store/find-arrivals.ts";

export function pastArrival(
  { request, at, words }: ArrivalRecord,
  arrival: Arrival,
  saved: InletHandler,
  edited: InletHandler,
  deps: RehearsalDeps,
): PastView["arrivals"][number] {
  const [before, after] = [taken(saved, arrival, deps), taken(edited, arrival, deps)];
  const same = JSON.stringify({ ...before, route: null }) === JSON.stringify({ ...after, route: null });
  return { request, at: new Date(at).toISOString(), words, same, before, after };
}

function taken(handler: InletHandler, arrival: Arrival, deps: RehearsalDeps): TakenView {
  const { would, route, asks, reply } = rehearsalView(handler.rehearse(arrival), deps);
  const does = asks.flatMap(({ sends, refusal }) => [
    ...sends.map(({ name, to }) => `${name} → ${to}`),
    ...(refusal === null ? [] : [refusal]),
  ]);
  return { would, route, does, reply: asks.length > 0 ? "" : reply };
}
