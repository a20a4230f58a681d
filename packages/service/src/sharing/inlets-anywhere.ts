/** How inlets do and what came in, at this instance and at the others. */
import { HOUR_MS } from "@bold-relay/core";
import { healthHere, healthOfAll, type InletHealth } from "../inlets/inlet-health.ts";
import type { InletRegistry } from "../inlets/registry.ts";
import type { Peers } from "../peers/peers.ts";
import type { Clock } from "../platform/clock.ts";
import type { Log } from "../platform/log.ts";

export interface InletsAnywhereDeps {
  readonly peers: Peers;
  readonly inlets: Pick<InletRegistry, "all" | "counter">;
  readonly clock: Clock;
  readonly log: Log;
}

const ANSWER_WITHIN_MS = 1_000;

/** @returns looks, and reads what others have counted; of an instance that does not answer nothing is known */
export function createInletsAnywhere({
  peers,
  inlets,
  clock,
  log,
}: InletsAnywhereDeps): () => Promise<ReadonlyMap<string, InletHealth>> {
  return async () => {
    const since = clock.now() - HOUR_MS;
    const others = peers.others();
    if (others.length === 0) return healthOfAll([healthHere(inlets.all, since)]);
    const asked = others.map((peer) =>
      peers.calls.call<InletHealth[]>(peer, "inlets", { since }, ANSWER_WITHIN_MS).catch((error: unknown) => {
        log.debug({ err: error, instance: peer.name }, "how inlets do there is not known");
        return [];
      }),
    );
    const [parts] = await Promise.all([Promise.all(asked), inlets.counter.readAgain()]);
    return healthOfAll([healthHere(inlets.all, since), ...parts]);
  };
}
