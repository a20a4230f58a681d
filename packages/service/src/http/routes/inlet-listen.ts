/** Listening at an inlet: what comes there, and what it could hear, while somebody looks. */
import type { ListenEvent, ListenEvents } from "@bold-relay/api";
import { inletKinds, RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { keptArrival, wordsOf } from "../../inlets/intents.ts";
import { listenAt, listenFilter } from "../../inlets/listen.ts";
import type { ListenedArrival } from "../../inlets/registry.ts";
import type { HttpDeps } from "../deps.ts";
import { openEventStream } from "../event-stream.ts";
import { instanceOf } from "./inlet-instances.ts";

/** Nobody looks for longer at one go: of a topic inlet the broker tells less meanwhile. */
const LISTEN_MS = 300_000;

export function inletListenRoutes(
  deps: Pick<HttpDeps, "guard" | "streams" | "clock" | "inlets" | "wire" | "claims" | "watchInputs">,
): Router {
  const { guard, streams, clock, wire } = deps;
  return guard.routes({
    "GET /inlets/:slug/listen": async (req, res, caller) => {
      const instance = instanceOf(deps, req.params.slug, caller);
      const { inlet } = instance.record;
      const { direct, catches } = inletKinds[inlet.kind];
      if (direct)
        throw new RelayError("bad-request", { why: "Its callers name channel and action; routes catch nothing" });
      const endsAt = clock.now() + LISTEN_MS;
      let isOver = false;
      let end: (() => Promise<void>) | null = null;
      const close = () => {
        isOver = true;
        clearTimeout(timer);
        void end?.();
      };
      const stream = openEventStream(res, { streams, kind: "wire", caller }, close);
      const send = ({ name, data }: ListenEvent) => stream.send(name, data);
      const finish = (why: string) => {
        send({ name: "ended", data: { why } });
        stream.end();
      };
      const timer = setTimeout(() => finish("five minutes are over"), LISTEN_MS);
      try {
        const listening = {
          sites: caller.sites,
          onArrival: (one: ListenedArrival) => send({ name: "arrival", data: view(one, clock.now()) }),
          onSkipped: (count: number) => send({ name: "skipped", data: { count } }),
          onEnd: finish,
        };
        end = await listenAt(instance, listening, deps);
        if (isOver) return await end();
        // Only now: whoever reads it presses the button.
        const filter = catches === "topic" ? listenFilter(inlet, caller.sites) : null;
        const masks = filter !== null && wire.masks({ filter, all: true });
        send({ name: "hello", data: { endsAt: new Date(endsAt).toISOString(), masks } });
      } catch (error) {
        finish(error instanceof Error ? error.message : String(error));
      }
    },
  });
}

function view({ arrival, outcome, made }: ListenedArrival, now: number): ListenEvents["arrival"] {
  return {
    at: new Date(now).toISOString(),
    words: wordsOf(arrival).slice(0, 500),
    // What is very long is shown by its words only, and no route is made of it.
    arrival: keptArrival(arrival).arrival ?? null,
    outcome,
    requests: [...made],
  };
}
