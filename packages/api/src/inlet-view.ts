/** What can be seen and rehearsed of inlets. */
import type { Arrival, Finding, InletDescription, InletKind } from "@bold-relay/core";
import type { RequestView } from "./request-view.ts";

/** GET /api/v1/inlets */
export interface InletView {
  slug: string;
  name: string;
  kind: InletKind;
  site: string | null;
  paused: boolean;
  /** How many of its keys count. */
  keys: number;
  /** Whether it checks signatures. */
  signed: boolean;
  routes: number;
  /** Its own connection or port; null where it has none. */
  up: boolean | null;
  /** What is wrong with that, and what to do. */
  trouble: string | null;
  /** What came in within the last 24 hours and 7 days, and what became of it. */
  counts: { day: InletCountsView; week: InletCountsView };
  /** The last arrival that it took. */
  lastAt: string | null;
  /** Where callers reach it. */
  address: string;
}

/** Each arrival ends as one of these. */
export interface InletCountsView {
  arrivals: number;
  /** Something was asked of a channel, a group or a scene. */
  asked: number;
  /** Answered with words alone, or ignored by a route. */
  answered: number;
  notUnderstood: number;
  refused: number;
  /** From senders that are not permitted. */
  unknownSenders: number;
}

/** GET /api/v1/inlets/<slug> */
export interface InletDescriptionView {
  inlet: InletDescription;
  version: number;
  findings: Finding[];
  /** Of a panel: the names of what whoever has a link can switch, and of what they only see; and whether the PIN is asked for first. */
  reach?: { switches: string[]; sees: string[]; pin: boolean };
}

/** Events of GET /api/v1/inlets/<slug>/listen, by name. */
export interface ListenEvents {
  /** `masks`: meanwhile the broker cannot tell that nobody listens to commands. */
  hello: { endsAt: string; masks: boolean };
  arrival: ListenedView;
  /** So many messages were left out in a second: a person cannot read more than 3 of a topic and 300 of all. */
  skipped: { count: number };
  ended: { why: string };
}

/** An arrival as somebody sees it who listens. */
export interface ListenedView {
  at: string;
  /** In one line. */
  words: string;
  /** As a route could catch it; null: it is too long to be kept. */
  arrival: Partial<Arrival> | null;
  /**
   * What became of it: the outcome of its requests; `answered`, `asked-which`, `ignored`, `unknown-sender`; an error code; or `no-route` of what the
   * inlet does not take.
   */
  outcome: string;
  /** Ids of the requests that it made. */
  requests: string[];
}

/** POST /api/v1/inlets/<slug>/rehearse: the description may be one that is not saved yet. */
export interface RehearsalBody {
  inlet?: InletDescription;
  arrival: Partial<Arrival>;
}

/** The body of POST /api/v1/inlets/<slug>/past: the newest arrivals, taken by an inlet as it is described here. */
export interface PastBody {
  inlet: InletDescription;
  /** 1 to 200; default 50. */
  most?: number;
}

/** What an inlet would make of an arrival now. */
export interface TakenView {
  would: RehearsalView["would"];
  /** The place of the route that catches it, from 1; null: none. */
  route: number | null;
  /** What would be sent, and what would be refused, in words. */
  does: string[];
  reply: string;
}

/** Newest first. */
export interface PastView {
  arrivals: {
    request: string;
    at: string;
    words: string;
    /** Both would do and say the same. */
    same: boolean;
    /** By the inlet as it is saved. */
    before: TakenView;
    /** By the inlet as it is described. */
    after: TakenView;
  }[];
  /** How many are not the same. */
  different: number;
}

/** The body of POST /api/v1/inlets/<slug>/try: it is done for real. */
export interface TrialBody {
  arrival: Partial<Arrival>;
  /** One of the inlet's keys; a hook with a secret, a topic and a sheet need none. It is not kept. */
  key?: string;
}

export interface TrialView {
  /** What was sent through the socket, and what came back, in order. */
  exchanges: { sent: string; got: string }[];
  /** The requests that it made. */
  requests: string[];
  tookMs: number;
}

/** POST /api/v1/inlets/<slug>/secret: shown only once. */
export interface NewSecretView {
  secret: string;
}

/** The body of POST /api/v1/inlets/<slug>/links. */
export interface LinkBody {
  /** What it does when its button is pressed. */
  phrase: string;
  /** How long it counts, 0.1 to 8760; default 24. */
  hours?: number;
}

export interface LinkView {
  id: string;
  /** Path at the service. */
  path: string;
  until: string;
}

/** GET /api/v1/inlets/<slug>/links: everything but the link itself. */
export interface LinkRecordView {
  id: string;
  phrase: string;
  /** The name of the member who made it. */
  madeBy: string;
  madeAt: string;
  until: string;
}

/** The body of POST /api/v1/phrases. */
export interface PhraseBody {
  /** 1 to 500 characters, like “porch lantern in wren on”. */
  text: string;
  /** Say what it would do, and do nothing. */
  rehearse?: boolean;
}

/** What would happen; nothing was sent. */
export interface RehearsalView {
  /** act: something would be sent · answer: only words · do-nothing: neither */
  would: "act" | "answer" | "do-nothing";
  /** The place of the route that caught it, from 1; null: none. */
  route: number | null;
  routeName: string | null;
  used: { words: string; gave: string }[];
  asks: RehearsedAskView[];
  reply: string;
  /** What is wrong or doubtful with the inlet as it is described. */
  findings: Finding[];
}

/** POST /api/v1/requests/rehearse: what one ask would send. */
export interface RehearsedAskView {
  target: string;
  action: string;
  value: number | string | null;
  /** ms */
  forMs: number | null;
  /** Why it would be refused; null: it would go out. */
  refusal: string | null;
  sends: { channel: string; name: string; to: string; topic: string; payload: string }[];
}

/** POST /in/<inlet>, of the kinds that answer with words. */
export interface InletReply {
  reply: string;
  outcome: string;
  requests: RequestView[];
}
