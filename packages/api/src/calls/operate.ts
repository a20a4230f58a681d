/** Calls of everyday work: who is signed in, the Board, requests, lock-outs, live events. */
import type { AlertView } from "../alert-view.ts";
import type { AskBody, CancelBody, LockOutBody, ReleaseBody } from "../ask.ts";
import type { BoardView, LockoutView, StatusView } from "../channel-view.ts";
import type { LiveEvent } from "../client-answer.ts";
import type { SessionView } from "../people-view.ts";
import type { RequestView, TraceView } from "../request-view.ts";
import type { Sender } from "./sender.ts";

export interface AskOptions {
  /** `Prefer: wait`, s: how long the answer may wait for the outcome. Default: not at all. */
  waitS?: number;
  /** Ask at this inlet instead of as oneself. */
  inlet?: string;
  /** `Idempotency-Key`: calls with the same key are one call, however often they are made. */
  repeatKey?: string;
}

export function operateCalls({ send, json }: Sender) {
  return {
    /**
     * The open alerts, the newest first.
     * @param all those that are resolved or snoozed, too
     */
    alerts: (all = false) => json<AlertView[]>(send("GET", `/api/v1/alerts${all ? "?all=true" : ""}`)),
    /** Ends this session. */
    signOut: async () => void (await send("DELETE", "/api/v1/session")),
    /** Who is signed in, and what they may do. Rejects with not-signed-in (401). */
    session: () => json<SessionView>(send("GET", "/api/v1/session")),
    /** Whether database, broker and instances are up, and the counts of a day. */
    status: () => json<StatusView>(send("GET", "/api/v1/status")),
    /** Every channel that the caller may see, with what it was commanded and what it is. */
    board: () => json<BoardView>(send("GET", "/api/v1/board")),
    /** A request with its commands and their outcome. */
    request: (id: string) => json<RequestView>(send("GET", `/api/v1/requests/${encodeURIComponent(id)}`)),
    /** Every hop of a request, in order, with its bytes and times. */
    trace: (id: string) => json<TraceView>(send("GET", `/api/v1/requests/${encodeURIComponent(id)}/trace`)),
    /** Asks; resolves to the request with its outcome, which is "open" if the wait was not long enough. */
    ask(body: AskBody, { waitS, inlet, repeatKey }: AskOptions = {}): Promise<RequestView> {
      const path = inlet === undefined ? "/api/v1/requests" : `/in/${encodeURIComponent(inlet)}`;
      const headers = {
        ...(waitS === undefined ? {} : { prefer: `wait=${waitS}` }),
        ...(repeatKey === undefined ? {} : { "idempotency-key": repeatKey }),
      };
      return json(send("POST", path, body, { headers }));
    },
    /** Ends what is open of a request; resolves to it as it is then. */
    cancel: (id: string, body: CancelBody) =>
      json<RequestView>(send("POST", `/api/v1/requests/${encodeURIComponent(id)}/cancel`, body)),
    /**
     * Locks a channel or a device out: every command is refused, with the name of who did it, until it is released.
     */
    lockOut: (body: LockOutBody) => json<LockoutView>(send("POST", "/api/v1/lockouts", body)),
    /** Releases a lock-out: one's own, or as an owner with a reason. */
    release: async (id: string, body: ReleaseBody = {}) =>
      void (await send("POST", `/api/v1/lockouts/${encodeURIComponent(id)}/release`, body)),
    /**
     * Live events until the signal aborts or the connection ends; reconnecting is the caller's to do, with the id of
     * the last event to go on where it was.
     */
    async live(onEvent: (event: LiveEvent, id: string | undefined) => void, signal: AbortSignal, lastEventId?: string) {
      const last = lastEventId === undefined ? {} : { "last-event-id": lastEventId };
      const headers = { accept: "text/event-stream", ...last };
      const { readEvents } = await import("../event-reader.ts");
      return readEvents<LiveEvent>(send("GET", "/api/v1/live", undefined, { signal, headers }), onEvent);
    },
  };
}
