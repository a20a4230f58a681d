/** Puts the console on the page. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode, startTransition } from "react";
import { createRoot } from "react-dom/client";
import { boardQuery } from "./api/board.ts";
import { sessionQuery } from "./api/session.ts";
import { App } from "./app.tsx";
import "./tokens.css";

/** For how long the page's first sight stands when the service does not answer, ms. */
const FIRST_SIGHT_MS = 2_000;

const queries = new QueryClient({
  defaultOptions: {
    // A building may have a network and no internet: whether the service answers is found out by asking it.
    queries: { staleTime: 30_000, retry: 1, refetchOnWindowFocus: true, networkMode: "always" },
  },
});

void start();

async function start(): Promise<void> {
  const place = document.getElementById("console");
  if (!place) throw new Error("The page has no place for the console.");
  // What every page needs is asked for before the first of them is drawn; the page's head has sent for it already.
  // Both before the first drawing: what arrives in the middle of one makes React begin it anew, in one long piece.
  const known = [queries.prefetchQuery(sessionQuery), queries.prefetchQuery({ ...boardQuery, retry: false })];
  await Promise.race([Promise.all(known), new Promise((resolve) => setTimeout(resolve, FIRST_SIGHT_MS))]);
  const root = createRoot(place);
  // In pieces: what is pressed meanwhile is heard.
  startTransition(() =>
    root.render(
      <StrictMode>
        <QueryClientProvider client={queries}>
          <App />
        </QueryClientProvider>
      </StrictMode>,
    ),
  );
}
