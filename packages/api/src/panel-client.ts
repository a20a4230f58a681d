/** The client of a panel: what its page and its holders call. A file of its own, so that the page loads no other calls. */
import { type ClientOptions, openSender } from "./calls/sender.ts";
import type { PanelEvent } from "./client-answer.ts";
import type { PanelAskBody, PanelPinView, PanelView } from "./panel-view.ts";

export interface PanelClientOptions extends ClientOptions {
  /** Identifier of the panel. */
  slug: string;
  /** Left out where the browser keeps it in the cookie of the panel. */
  key?: string;
  /** Of a panel with a PIN: what entering it gave; null: it was not entered. */
  pinToken?: string | null;
}

/** Calls reject with ProblemError, `pin-needed` among them, or with UnreachableError when nothing answered. */
export function createPanelClient({ slug, pinToken = null, ...options }: PanelClientOptions) {
  const { send, json } = openSender(options);
  const path = `/in/${encodeURIComponent(slug)}`;
  const headers: Record<string, string> = pinToken === null ? {} : { "x-panel-pin": pinToken };
  return {
    /** Has the browser keep the key in a cookie of this panel, which no script reads. */
    keepKey: () => send("POST", `${path}/key`),
    /** What it shows now. */
    view: () => json<PanelView>(send("GET", `${path}/panel`, undefined, { headers })),
    enterPin: (pin: string) => json<PanelPinView>(send("POST", `${path}/pin`, { pin })),
    /** Asks what a button says. Resolves once it is accepted; what becomes of it comes with the live events. */
    press: (body: PanelAskBody) => json<{ id: string; outcome: string }>(send("POST", path, body, { headers })),
    /** Live events until the signal aborts or the connection ends. */
    async live(onEvent: (event: PanelEvent) => void, signal: AbortSignal) {
      const { readEvents } = await import("./event-reader.ts");
      const more = { signal, headers: { ...headers, accept: "text/event-stream" } };
      return readEvents<PanelEvent>(send("GET", `${path}/live`, undefined, more), onEvent);
    },
  };
}
