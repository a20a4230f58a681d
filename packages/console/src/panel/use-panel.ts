/** A panel as it is now: read live, and told how old it is where nothing is heard any more. */
import { createPanelClient, type PanelEvent, type PanelItemView, type PanelView, ProblemError } from "@bold-relay/api";
import { useEffect, useMemo, useState } from "react";
import { agedChannel } from "../live/board-cache.ts";
import { IN_COOKIE, type PanelKey } from "./panel-key.ts";

export type PanelClient = ReturnType<typeof createPanelClient>;

export type PanelState =
  | { readonly is: "waiting" }
  | {
      readonly is: "shown";
      readonly panel: PanelView /** Until when it was true, ms since 1970; null: it is now. */;
      readonly since: number | null;
    }
  | { readonly is: "pin" }
  /** `isFinal`: the key counts no more. */
  | { readonly is: "away"; readonly title: string; readonly why: string; readonly isFinal: boolean };

const AGAIN_MS = 2_000;
/** The service tells every 4 s that it is there. Without a word for longer nothing is known. */
const SILENT_MS = 10_000;

export function usePanel(slug: string, key: PanelKey, pinToken: string | null) {
  const client = useMemo(() => {
    return createPanelClient({ baseUrl: "", slug, pinToken, ...(key === IN_COOKIE ? {} : { key }) });
  }, [slug, key, pinToken]);
  const [state, setState] = useState<PanelState>({ is: "waiting" });

  useEffect(() => {
    const stop = new AbortController();
    void keepReading(client, setState, stop.signal);
    return () => stop.abort();
  }, [client]);

  return { client, state };
}

type SetState = (change: (state: PanelState) => PanelState) => void;

/** Comes back for as long as it takes, unless the service says that this key will never do. */
async function keepReading(client: PanelClient, setState: SetState, stop: AbortSignal): Promise<void> {
  while (!stop.aborted) {
    const reading = new Reading(setState);
    const error: unknown = await client
      .live((event) => reading.take(event), reading.until(stop))
      .then(
        () => null,
        (cause: unknown) => cause,
      );
    reading.over();
    if (stop.aborted) return;
    const end = endOf(error);
    setState((state) => end ?? lost(state, error, reading.heardAt));
    if (end?.is === "pin" || (end?.is === "away" && end.isFinal)) return;
    await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
  }
}

/** One connection: what it brings, and that it is given up where nothing comes. */
class Reading {
  heardAt = Date.now();
  private readonly setState: SetState;
  private readonly silence = new AbortController();
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(setState: SetState) {
    this.setState = setState;
    this.heard();
  }

  until(stop: AbortSignal): AbortSignal {
    return AbortSignal.any([stop, this.silence.signal]);
  }

  take(event: PanelEvent): void {
    this.heard();
    if (event.name === "panel") this.setState(() => ({ is: "shown", panel: event.data, since: null }));
    else if (event.name === "item") this.setState((state) => withItem(state, event.data));
  }

  over(): void {
    clearTimeout(this.timer);
  }

  private heard(): void {
    this.heardAt = Date.now();
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.silence.abort(), SILENT_MS);
  }
}

function withItem(state: PanelState, item: PanelItemView): PanelState {
  if (state.is !== "shown") return state;
  const items = state.panel.items.map((one) => (one.place === item.place ? item : one));
  return { ...state, panel: { ...state.panel, items } };
}

/** What the service said for good, or until somebody does something; null: it may be there again at once. */
function endOf(error: unknown): Extract<PanelState, { is: "pin" | "away" }> | null {
  if (!(error instanceof ProblemError)) return null;
  const { code, status } = error.problem;
  if (code === "pin-needed") return { is: "pin" };
  if (code === "wrong-key")
    return { is: "away", title: "Not valid", why: "This link is no longer valid. Ask for a new one.", isFinal: true };
  return status < 500 ? { is: "away", title: "Not available", why: error.message, isFinal: false } : null;
}

/** @param since when something was heard last, ms since 1970 */
function lost(state: PanelState, error: unknown, since: number): PanelState {
  if (state.is !== "shown") {
    const why = error instanceof ProblemError ? error.message : "The service does not answer.";
    return { is: "away", title: "No connection", why, isFinal: false };
  }
  if (state.since !== null) return state;
  const items = state.panel.items.map((item) => agedItem(item, new Date(since).toISOString()));
  return { is: "shown", panel: { ...state.panel, items }, since };
}

/** Of nothing is it known how it is now. */
function agedItem(item: PanelItemView, asOf: string): PanelItemView {
  if (item.is === "channel") return { ...item, channel: agedChannel(item.channel, asOf) };
  return item.is === "group" || item.is === "scene" ? { ...item, on: 0, unknown: item.of } : item;
}
