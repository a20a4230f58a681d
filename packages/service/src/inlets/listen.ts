/**
 * Listening at an inlet: whoever makes a route presses the real button and sees what comes. Beside the arrivals of the inlet these are, of a topic
 * inlet, messages on topics that belong to nobody, and of a device inlet all that inputs do. Nothing is kept, and what no route catches does nothing.
 */
import {
  type Arrival,
  INPUT_EVENTS,
  type InletDescription,
  inletKinds,
  inputArrival,
  matchRoute,
  pressTimesOf,
} from "@bold-relay/core";
import type { TopicClaims } from "../broker/topic-claims.ts";
import type { Wire } from "../broker/wire.ts";
import type { InputWatcher } from "../state/input-feed.ts";
import { Presses } from "./presses.ts";
import { ReadableRate } from "./readable-rate.ts";
import type { InletInstance, InletRegistry, ListenedArrival } from "./registry.ts";
import { topicArrival } from "./topic-arrival.ts";

export interface ListenDeps {
  readonly inlets: Pick<InletRegistry, "watch">;
  readonly wire: Pick<Wire, "watch" | "masks">;
  readonly claims: Pick<TopicClaims, "mayHear">;
  readonly watchInputs: (watcher: InputWatcher) => () => void;
}

export interface Listening {
  /** Sites whose topics may be looked at; null: all topics. */
  readonly sites: readonly string[] | null;
  readonly onArrival: (arrival: ListenedArrival) => void;
  /** So many messages on topics were left out in a second, for there were more than can be read. */
  readonly onSkipped: (count: number) => void;
  readonly onEnd: (why: string) => void;
}

/** The topics that are looked at. Whoever may look at some sites only sees what begins with the site. */
export function listenFilter({ site }: InletDescription, sites: readonly string[] | null): string | null {
  if (sites === null) return "#";
  return site === null ? null : `${site}/#`;
}

/**
 * @returns ends it
 * @throws Error when the broker cannot be reached
 */
export async function listenAt(
  instance: InletInstance,
  listening: Listening,
  deps: ListenDeps,
): Promise<() => Promise<void>> {
  const { inlet } = instance.record;
  const { catches } = inletKinds[inlet.kind];
  // First what may fail: nothing is left open then.
  const ends = catches === "topic" ? [await watchTopics(instance, listening, deps)] : [];
  if (catches === "channel") ends.push(watchInputs(instance, listening, deps));
  ends.push(deps.inlets.watch(inlet.slug, listening.onArrival));
  return async () => {
    for (const end of ends) end();
  };
}

/** What a route waits for comes as an arrival of the inlet. */
function uncaught({ handler }: InletInstance, arrival: Arrival): boolean {
  return matchRoute(handler.router, arrival, () => true) === null;
}

function tell({ onArrival }: Listening, arrival: Arrival): void {
  onArrival({ arrival, outcome: "no-route", made: [] });
}

function watchInputs(instance: InletInstance, listening: Listening, deps: ListenDeps): () => void {
  const { inlet } = instance.record;
  const times = pressTimesOf(inlet);
  const wanted = new Set(INPUT_EVENTS);
  const presses = new Presses({
    inputOf: ({ site }) => (inlet.site === null || inlet.site === site.slug ? { times, wanted } : null),
    onEvent(channel, event) {
      const arrival = inputArrival(channel, event);
      if (uncaught(instance, arrival)) tell(listening, arrival);
    },
  });
  const end = deps.watchInputs(presses);
  return () => {
    end();
    presses.stop();
  };
}

async function watchTopics(instance: InletInstance, listening: Listening, deps: ListenDeps): Promise<() => void> {
  const { inlet } = instance.record;
  const filter = listenFilter(inlet, listening.sites);
  if (filter === null) return () => {};
  const rate = new ReadableRate(listening.onSkipped);
  const watching = deps.wire.watch({
    filter,
    all: true,
    // Counted below: what devices say and what the service writes must not use up what a person can read.
    most: Number.POSITIVE_INFINITY,
    sites: inlet.site === null ? listening.sites : [inlet.site],
    onMessage({ topic, payload, retained, own, role }) {
      if (retained || own || role !== null || !deps.claims.mayHear(inlet, topic)) return;
      const arrival = topicArrival(topic, payload);
      if (uncaught(instance, arrival) && rate.takes(topic)) tell(listening, arrival);
    },
    onSkipped: () => {},
    onEnd: listening.onEnd,
  });
  try {
    const end = await watching;
    return () => {
      end();
      rate.stop();
    };
  } catch (error) {
    rate.stop();
    throw error;
  }
}
