/** The arrival that a route is made from: one of the log, named in the address, or one that was just heard. */
import type { Arrival } from "@bold-relay/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { useSearchChange } from "../../parts/use-search-change.ts";

export interface Learning {
  /** null: no route is being made. */
  readonly arrival: Partial<Arrival> | null;
  /** The last one that a route was made from, for the rehearsal; null: none was. */
  readonly last: Partial<Arrival> | null;
  readonly choose: (arrival: Partial<Arrival>) => void;
  readonly leave: () => void;
}

export function useLearning(): Learning {
  const [params, change] = useSearchChange<"from">();
  const [heard, setHeard] = useState<Partial<Arrival> | null>(null);
  const logged = useLogged(params.get("from"));
  const arrival = heard ?? logged;
  // What came is tried first, also once its route is made.
  const [last, keep] = useState<Partial<Arrival> | null>(null);
  if (arrival !== null && arrival !== last) keep(arrival);
  return {
    arrival,
    last,
    choose: setHeard,
    leave() {
      setHeard(null);
      change({ from: "" });
    },
  };
}

/** What a request of the log brought, word for word; null: none is chosen, or nothing was kept of it. */
function useLogged(request: string | null): Partial<Arrival> | null {
  const { data: trace } = useQuery({
    queryKey: [...names.trace(request ?? ""), "arrival"],
    queryFn: () => client.trace(request ?? ""),
    enabled: request !== null,
  });
  return request === null ? null : (trace?.said?.arrival ?? null);
}
