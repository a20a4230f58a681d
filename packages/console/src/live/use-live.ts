/** Keeps the cache as the service is: live events in, reconnecting for as long as it takes. */
import { type LiveEvent, ProblemError, type StatusView } from "@bold-relay/api";
import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { boardQuery, placeChannel } from "../api/board.ts";
import { names, operate } from "../api/operate.ts";
import type { LiveState } from "./connection.ts";
import { renew } from "./renew.ts";

const FIRST_PAUSE_MS = 400;
const LONGEST_PAUSE_MS = 5_000;

export function useLive(): LiveState {
  const queries = useQueryClient();
  const [state, setState] = useState<LiveState>({ connected: true });
  useEffect(() => {
    const stop = new AbortController();
    void keepListening(queries, setState, stop.signal);
    return () => stop.abort();
  }, [queries]);
  return state;
}

async function keepListening(
  queries: QueryClient,
  tell: (state: LiveState) => void,
  signal: AbortSignal,
): Promise<void> {
  let pauseMs = FIRST_PAUSE_MS;
  // Where the board was read, events go on: it need not be read again.
  let lastId = await queries.fetchQuery(boardQuery).then(
    ({ event }): string | undefined => event,
    () => undefined,
  );
  const onEvent = (event: LiveEvent, id: string | undefined) => {
    lastId = id ?? lastId;
    if (event.name === "hello") {
      pauseMs = FIRST_PAUSE_MS;
      tell({ connected: true });
    }
    apply(queries, event);
  };
  while (!signal.aborted) {
    try {
      await operate.live(onEvent, signal, lastId);
    } catch (error) {
      if (signal.aborted) return;
      // The session is over: the sign-in page takes over.
      if (error instanceof ProblemError && error.problem.status === 401) {
        void renew(queries, names.session);
        return;
      }
    }
    if (signal.aborted) return;
    tell({ connected: false, since: Date.now() });
    await new Promise((resolve) => setTimeout(resolve, pauseMs));
    pauseMs = Math.min(pauseMs * 2, LONGEST_PAUSE_MS);
  }
}

let renewalDue = false;

/** A busy site changes many times a second: the list is read again twice a second at most. */
function renewLog(queries: QueryClient): void {
  if (renewalDue) return;
  renewalDue = true;
  setTimeout(() => {
    renewalDue = false;
    void renew(queries, names.log);
  }, 500);
}

function apply(queries: QueryClient, event: LiveEvent): void {
  switch (event.name) {
    case "reset":
      // What is known is too old; “hello” reads everything afresh.
      break;
    case "model":
      void renew(queries, names.board);
      void renew(queries, names.devices);
      break;
    case "hello":
      // What happens often is read again anyway; what was missed follows, or is read afresh: all that events keep as it is.
      renewLog(queries);
      if (event.data.resumed) break;
      for (const queryKey of [names.board, names.devices, names.status, names.alerts, ["trace"], ["day"]])
        void renew(queries, queryKey);
      break;
    case "channel":
      placeChannel(queries, event.data);
      void renew(queries, names.day(event.data.address));
      break;
    case "request":
      void renew(queries, names.trace(event.data.id));
      renewLog(queries);
      break;
    case "alerts":
      void renew(queries, names.alerts);
      break;
    case "status":
      queries.setQueryData<StatusView>(names.status, (status) => status && { ...status, ...event.data });
      break;
  }
}
