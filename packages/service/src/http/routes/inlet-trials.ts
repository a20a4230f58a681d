/** Trying an inlet out: past arrivals against changed routes, where nothing is sent; and for real, where it is. */

import { setImmediate as aside } from "node:timers/promises";
import type { PastBody, PastView, TrialView } from "@bold-relay/api";
import { trialSchema } from "@bold-relay/api/schema";
import { NO_ARRIVAL, RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { readBody } from "../../http-exchange/body.ts";
import { tryInlet } from "../../inlets/trial.ts";
import { newId } from "../../platform/id.ts";

import { pastArrival } from "../../requests/past-arrival.ts";
import { findArrivals, findMadeSince } from "../../store/find-arrivals.ts";
import type { HttpDeps } from "../deps.ts";
import { describedHandler, instanceOf, readDescribed } from "./inlet-instances.ts";

const DEFAULT_PAST = 50;

export function inletTrialRoutes(deps: HttpDeps): Router {
  const { guard, audit, pool, clock, inlets, gate, url } = deps;
  return guard.routes({
    /** What came in before, as it would be taken by the inlet as it is and by the inlet as it is described in the body. */
    "POST /inlets/:slug/past": async (req, res, caller) => {
      const { record, handler } = instanceOf(deps, req.params.slug, caller);
      const body = await readDescribed<PastBody>(deps, req, "past", caller);
      const edited = describedHandler(deps, body.inlet, caller);
      const found = await findArrivals(pool, record.inlet.slug, body.most ?? DEFAULT_PAST);
      const arrivals: PastView["arrivals"] = [];
      for (const one of found) {
        arrivals.push(pastArrival(one, { ...NO_ARRIVAL, ...one.arrival }, handler, edited, deps));
        // Two hundred of them may take a second: others have their turn in between.
        await aside();
      }
      res.json({ arrivals, different: arrivals.filter(({ same }) => !same).length } satisfies PastView);
    },

    /** Calls the inlet through its own socket, as an outside caller would. What that asks is done. */
    "POST /inlets/:slug/try": async (req, res, caller) => {
      const instance = instanceOf(deps, req.params.slug, caller);
      const { arrival, key = null } = await readBody(req, trialSchema);
      const { slug } = instance.record.inlet;
      // Looked at here: a wrong one shown over loopback would count against every caller from there.
      if (key !== null && (await inlets.keyIdOf(key, slug)) === null)
        throw new RelayError("bad-request", { why: `That is no key of ${instance.record.inlet.name}` });
      const since = newId();
      const startedAt = clock.now();
      await audit.recordPermitted(caller, { action: "test request sent", object: slug });
      const exchanges = await tryInlet(instance, arrival, key, {
        url,
        publish: (topic, payload) => gate.publishTest(caller, instance.record.inlet, topic, payload),
      });
      const requests = await findMadeSince(pool, slug, since);
      res.json({ exchanges, requests, tookMs: clock.now() - startedAt } satisfies TrialView);
    },
  });
}
