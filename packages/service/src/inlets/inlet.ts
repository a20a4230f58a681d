/** What every kind of inlet is handed: who it is, and what it may do. It sees neither store nor link. */
import type { IncomingMessage, ServerResponse } from "node:http";
import type { BriefView, RequestView } from "@bold-relay/api";
import type { Arrival, Asker, ErrorCode, InletDescription, Intent, RelayError } from "@bold-relay/core";
import type { Calls } from "../platform/calls.ts";
import type { Log } from "../platform/log.ts";
import type { ChannelState } from "../state/channel-states.ts";
import type { PanelSource } from "./panel/view.ts";

export interface RequestCalls {
  /** Accepts an intent and waits up to `waitMs` for its outcome. Rejects with the refusal. */
  readonly ask: (intent: Intent, asker: Asker, waitMs: number) => Promise<RequestView>;
  /** The same for who only wants to know how it went; `there`: it got where the asker wanted to know of. */
  readonly askBriefly: (
    intent: Intent,
    asker: Asker,
    waitMs: number,
  ) => Promise<{ readonly brief: BriefView; readonly there: boolean }>;
  /** Waits up to `waitMs` for the outcome of a request that was accepted before. */
  readonly follow: (request: string, waitMs: number) => Promise<RequestView>;
}

/** Who brought an arrival, as far as its inlet vouches for it. */
export interface RequestOrigin {
  /** The key that was shown; null where the inlet itself vouches. */
  readonly keyId: number | null;
  /** The session of a member who says it; see `Asker.session`. */
  readonly session?: string;
  /** The sender's own name for this very arrival: a repeated one does nothing twice. */
  readonly repeatKey: string | null;
  /** Names the message that brought it, where its broker may bring that again; see `Intent.delivery`. */
  readonly delivery?: string | null;
  /** How long the answer may wait for the outcome, ms. */
  readonly waitMs: number;
  /** The sender's place in a trace of its own (W3C Trace Context). */
  readonly traceparent?: string | null;
}

export interface InletResult {
  /** What to say back. */
  readonly reply: string;
  /** What became of it: an outcome of requests; or `answered`, `asked-which`, `ignored`, `unknown-sender`. */
  readonly outcome: string;
  readonly requests: readonly RequestView[];
  /** The ids of all requests that it made, of those refused or not understood too. */
  readonly made: readonly string[];
  /** Later, when it was still open: the same with what is known then. null: nothing is open. */
  readonly later: Promise<InletResult> | null;
}

/** How something was said back, and whether it was taken. */
export interface ReplyReceipt {
  /** As the answer to a call, posted to an address, published on a topic, or typed into a session. */
  readonly how: "answer" | "post" | "topic" | "typed";
  readonly said: string;
  readonly taken: boolean;
  /** Why not; null when it was. */
  readonly why: string | null;
}

/** One inlet as it runs. */
export interface Inlet {
  readonly description: InletDescription;
  /** Rejects what comes while it is paused, or too fast: inlet-paused, rate-exceeded. */
  admit(): void;
  /** Counts an arrival that this kind takes by itself. */
  noteArrival(): void;
  /** Counts what became of it. */
  noteEnd(outcome: PromiseSettledResult<unknown>): void;
  /** Takes an arrival: permitted, matched, asked, answered. Rejects with rate-exceeded, inlet-paused, service-busy and the like. */
  hear(arrival: Arrival, origin: RequestOrigin): Promise<InletResult>;
  /** Puts an arrival on record that this kind refuses by itself. Rejects with the refusal. */
  refuse(arrival: Arrival, origin: RequestOrigin, refusal: RelayError): Promise<never>;
  /** Puts on record what was said back. */
  told(heard: Pick<InletResult, "made">, receipt: ReplyReceipt): void;
  /** The channels that it may name, with what they are; for sheets and answers. */
  states(): readonly ChannelState[];
  /** Reveals the secret for signatures; null: it has none. */
  readonly secret: string | null;
  /** Accepts an intent as it is, past routes; and follows it. */
  readonly requests: RequestCalls;
}

/** One way of coming in over HTTP, at /in/<slug>; the body is still to be read. */
export interface HttpKind {
  /** Its key may come as a cookie: its callers are pages of ours. */
  readonly takesCookie?: true;
  serve(req: IncomingMessage, res: ServerResponse, inlet: Inlet, deps: HttpKindDeps): Promise<void>;
}

export interface HttpKindDeps {
  /** The id of this inlet's key that the caller shows. Rejects with wrong-key, or too-many-attempts. */
  readonly keyOf: (req: IncomingMessage) => Promise<number>;
  /** Answers with the key that the caller shows as a cookie, which the browser shows from then on. */
  readonly keepKey: () => void;
  /** Counts a caller who could not show who they are. Rejects with wrong-key, or too-many-attempts. */
  readonly strange: (req: IncomingMessage, res: ServerResponse) => Promise<never>;
  /** Whether a signed link of an inlet has not been revoked. */
  readonly isLinkLive: (slug: string, id: string) => Promise<boolean>;
  /** For a connection that goes on: the inlet as it is now. Rejects when it is paused or gone, or the caller's key counts no more. */
  readonly stillThere: () => Promise<Inlet>;
  /** Puts on record that a caller was refused, where its kind answers in words of its own. */
  readonly noteRefusal: (code: ErrorCode) => void;
  readonly panels: PanelSource;
  readonly calls: Calls;
  readonly log: Log;
}

/** One way of coming in by a connection or port of its own. */
export interface OwnKind {
  start(): void;
  stop(): Promise<void>;
  /** Whether it is there for callers, and what is wrong if not. */
  readonly health: { readonly up: boolean; readonly trouble: string | null };
}
