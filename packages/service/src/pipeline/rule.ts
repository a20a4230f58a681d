/** What rules that act by themselves are handed: what is known, and the way by which they ask. */
import type { ChannelId, Situation } from "@bold-relay/core";
import type { Clock } from "../clock.ts";
import type { Log } from "../log.ts";
import type { Pool } from "../store/pool.ts";
import type { AcceptDesk } from "./accept.ts";
import type { Board } from "./board.ts";

export interface RuleParts {
  readonly clock: Clock;
  readonly log: Log;
  readonly pool: Pool;
  readonly board: Board;
  readonly situationOf: (channel: ChannelId) => Situation;
  readonly decree: AcceptDesk["decree"];
}
