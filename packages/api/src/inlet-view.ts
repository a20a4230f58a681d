/** What can be seen and rehearsed of inlets. */
import type { Arrival, Finding, InletDescription, InletKind } from "@bold-relay/core";
import type { RequestView } from "./view.ts";

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
  /** Since the service was started. */
  counts: { arrivals: number; asked: number; unmatched: number; refused: number; strangers: number };
  /** The last arrival that it took. */
  lastAt: string | null;
  /** Where callers reach it. */
  address: string;
}

/** GET /api/v1/inlets/<slug> */
export interface InletDescriptionView {
  inlet: InletDescription;
  version: number;
  findings: Finding[];
}

/** POST /api/v1/inlets/<slug>/rehearse: the description may be one that is not saved yet. */
export interface RehearsalBody {
  inlet?: InletDescription;
  arrival: Partial<Arrival>;
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
  /** Path at the service. */
  path: string;
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
  /** acts: something would be sent · answers: only words · nothing: neither */
  would: "act" | "answer" | "do-nothing";
  /** The place of the route that caught it, from 1; null: none. */
  route: number | null;
  routeName: string | null;
  used: { words: string; gave: string }[];
  asks: {
    target: string;
    action: string;
    value: number | string | null;
    forMs: number | null;
    /** Why it would be refused; null: it would go out. */
    refusal: string | null;
    sends: { channel: string; name: string; to: string; topic: string; payload: string }[];
  }[];
  reply: string;
  /** What is wrong or doubtful with the inlet as it is described. */
  findings: Finding[];
}

/** POST /in/<inlet>, of the kinds that answer with words. */
export interface InletReply {
  reply: string;
  outcome: string;
  requests: RequestView[];
}
