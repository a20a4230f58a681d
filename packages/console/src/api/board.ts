/** What the Board and what stands around every page read. */
import type { BoardView, ChannelView } from "@bold-relay/api";
import { type QueryClient, queryOptions, useQuery } from "@tanstack/react-query";
import { BoardReader, withChannel } from "../live/board-cache.ts";
import { names, operate } from "./operate.ts";

const board = new BoardReader(() => operate.board());

/** Live events keep it as it is: it never becomes old. */
export const boardQuery = queryOptions({
  queryKey: names.board,
  queryFn: () => board.read(),
  staleTime: Number.POSITIVE_INFINITY,
  // Comparing every field of a thousand channels at each event takes longer than drawing the one that changed.
  structuralSharing: false,
});

export function useBoard() {
  return useQuery(boardQuery);
}

export function useStatus() {
  return useQuery({ queryKey: names.status, queryFn: () => operate.status(), refetchInterval: 10_000 });
}

export function useTrace(request: string) {
  return useQuery({ queryKey: names.trace(request), queryFn: () => operate.trace(request) });
}

/** How many alerts are open, for whoever may see them. */
export function useOpenAlerts(enabled: boolean): number {
  const { data } = useQuery({
    queryKey: [...names.alerts, "open"],
    queryFn: () => operate.alerts(),
    enabled,
    refetchInterval: 60_000,
  });
  return data?.length ?? 0;
}

/** Puts one channel in its place on the board, whether it was read or is being read. */
export function placeChannel(queries: QueryClient, channel: ChannelView): void {
  board.changed(channel);
  queries.setQueryData<BoardView>(names.board, (known) => known && withChannel(known, channel));
}
