/** What makes the console open on this device without a connection: its files, and what the Board showed last. */
import type { BoardView } from "@bold-relay/api";
import type { QueryClient } from "@tanstack/react-query";
import { names } from "../api/operate.ts";
import { keepLastBoard, lastBoardOf } from "./last-board.ts";

const EVERY_MS = 20_000;

/**
 * Registers the service worker, and keeps the Board until the signal aborts.
 *
 * @param isCurrent whether what is shown is kept as the service is
 */
export function keepOnThisDevice(
  queries: QueryClient,
  member: string,
  isCurrent: () => boolean,
  signal: AbortSignal,
): void {
  // Without it the console works as ever, with a connection.
  navigator.serviceWorker?.register("/service-worker.js").catch(() => {});
  const keep = () => {
    const board = queries.getQueryData<BoardView>(names.board);
    if (board && isCurrent()) keepLastBoard(lastBoardOf(board, member, Date.now())).catch(() => {});
  };
  keep();
  const timer = setInterval(keep, EVERY_MS);
  // A phone may end a page that is not seen without a word.
  document.addEventListener("visibilitychange", () => document.hidden && keep(), { signal });
  signal.addEventListener("abort", () => clearInterval(timer));
}
