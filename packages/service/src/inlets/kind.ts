/** How a kind of inlet comes in, and how it is tried. What it says of itself beside that is in the core (`inlet/kind/`). */
import type { Arrival } from "@bold-relay/core";
import type { Calls } from "../platform/calls.ts";
import type { Log } from "../platform/log.ts";
import type { InputWatcher } from "../state/input-feed.ts";
import type { HttpKind, Inlet, OwnKind } from "./inlet.ts";
import type { TopicPlace } from "./topic-place.ts";

export interface InletKindWay {
  /** Over HTTP at /in/<slug>, made once for all inlets of the kind; left out where it does not come in that way. */
  readonly http?: () => HttpKind;
  /** By a connection or port of its own; left out where it has none. */
  readonly open?: (inlet: Inlet, deps: OwnKindDeps) => OwnKind;
  /** Any instance may answer: nothing is kept from one request for the next. Else one does, for there may be talks and tries. */
  readonly isAnywhere?: true;
  /**
   * Calls it as an outside caller would; what that asks is done.
   *
   * @throws RelayError bad-request when the arrival lacks what this kind needs
   */
  readonly trial: (trial: Trial) => Promise<Exchange[]>;
}

/** What kinds with a connection or port of their own are given. */
export interface OwnKindDeps {
  readonly calls: Calls;
  readonly log: Log;
  readonly topic: TopicPlace;
  /** Tells what inputs of devices report. Ends with the function that it returns. */
  readonly watchInputs: (watcher: InputWatcher) => () => void;
  /** The id of a key of this inlet; null: it is none. */
  readonly keyOf: (key: string, slug: string) => Promise<number | null>;
  /** Puts on record that an address is not heard for a while, for it showed too many wrong keys. */
  readonly noteWrongKeys: (address: string, slug: string) => void;
  /** Whether the configuration lets an inlet listen there. */
  readonly mayListen: (address: string, port: number) => boolean;
}

export interface Trial {
  readonly inlet: Inlet;
  /** null where it comes in over HTTP, or is paused. */
  readonly own: OwnKind | null;
  readonly arrival: Partial<Arrival>;
  /** One of its keys; null: none was given. */
  readonly key: string | null;
  /** POST to /in/<path> over loopback, with the key or a signature. */
  readonly post: (path: string, body: unknown) => Promise<Exchange>;
  readonly publish: (topic: string, payload: Uint8Array) => Promise<void>;
}

/** One message there and back. */
export interface Exchange {
  readonly sent: string;
  readonly got: string;
}
