/** Requests that are open at other instances, for whoever reads the log here. */

import type { Peers } from "../peers/peers.ts";
import type { Log } from "../platform/log.ts";
import type { OpenElsewhere } from "../requests/queries.ts";
import type { CommandRecord } from "../store/find-requests.ts";
import { findOpenAmong, findOpenIds } from "../store/open-commands.ts";
import type { Pool } from "../store/pool.ts";

const ANSWER_WITHIN_MS = 1_000;

export function createOpenElsewhere(pool: Pool, peers: Peers, log: Log): OpenElsewhere {
  return {
    idsOn: async (channels) => (peers.others().length === 0 ? [] : findOpenIds(pool, channels)),

    async commandsOf(requests) {
      const others = peers.others();
      if (others.length === 0 || requests.length === 0) return [];
      const ids = await findOpenAmong(pool, requests);
      if (ids.length === 0) return [];
      // One that does not answer in time has its requests shown without how far they got.
      const found = await Promise.allSettled(
        others.map((peer) => peers.calls.call<CommandRecord[]>(peer, "open", { ids }, ANSWER_WITHIN_MS)),
      );
      return found.flatMap((one, index) => {
        if (one.status === "fulfilled") return one.value;
        log.debug({ err: one.reason, instance: others[index]?.name }, "what is open there is not known");
        return [];
      });
    },
  };
}
