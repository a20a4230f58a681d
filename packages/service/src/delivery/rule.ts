/** What rules that act by themselves are handed: what is known, and the way by which they ask. */
import type { ChannelId, Order, Situation } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Log } from "../platform/log.ts";
import type { Board } from "../state/board.ts";
import type { DeadlineWhy } from "../store/accept-rows.ts";
import type { Pool } from "../store/pool.ts";

export interface RuleDeps {
  readonly clock: Clock;
  readonly log: Log;
  readonly pool: Pool;
  readonly board: Board;
  readonly situationOf: (channel: ChannelId) => Situation;
  /** Resolves once it is durable. */
  readonly submitForRule: (request: RuleRequest) => Promise<void>;
}

/** What the service itself orders, by a rule that somebody has set. */
export interface RuleRequest {
  readonly orders: readonly Order[];
  readonly inlet: DeadlineWhy | "power-up";
  readonly target: string;
  readonly action: string;
  /** The deadline that it carries out. */
  readonly deadlineOf: string | null;
}
