/** What the HTTP application is joined from. */
import type { IncomingMessage, ServerResponse } from "node:http";
import type { StatusView } from "@bold-relay/api";
import type { ChannelId, Situation } from "@bold-relay/core";
import type { AuditLog } from "../auth/audit-log.ts";
import type { OpenStreams } from "../auth/open-streams.ts";
import type { PasswordAgain } from "../auth/password-again.ts";
import type { Credentials } from "../broker/credentials.ts";
import type { BrokerGate } from "../broker/gate.ts";
import type { TopicClaims } from "../broker/topic-claims.ts";
import type { Wire } from "../broker/wire.ts";
import type { CommissioningRuns } from "../commissioning/runs.ts";
import type { Deadlines } from "../delivery/deadlines.ts";
import type { RequestService } from "../inlets/handler.ts";
import type { InletHealth } from "../inlets/inlet-health.ts";
import type { InletRegistry } from "../inlets/registry.ts";
import type { DescriptionChecker } from "../model/description-checker.ts";
import type { ModelReload } from "../model/model-reload.ts";
import type { Clock } from "../platform/clock.ts";
import type { Config } from "../platform/config/config.ts";
import type { InTurn } from "../platform/in-turn.ts";
import type { Log } from "../platform/log.ts";
import type { Metrics } from "../platform/metrics.ts";
import type { Alerts } from "../reporting/alerts.ts";
import type { Notifications } from "../reporting/notifications.ts";
import type { Statistics } from "../reporting/statistics.ts";
import type { Status } from "../reporting/status.ts";
import type { Close } from "../requests/cancel.ts";
import type { RequestQueries } from "../requests/queries.ts";
import type { Ask, AskBriefly } from "../requests/wait.ts";
import type { Board } from "../state/board.ts";
import type { InputWatcher } from "../state/input-feed.ts";
import type { Feed } from "../state/live-feed.ts";
import type { Lockouts } from "../state/lockouts.ts";
import type { WayCounter } from "../state/way-counter.ts";
import type { Db, Pool } from "../store/pool.ts";
import type { Guard } from "./permissions.ts";

export interface HttpDeps {
  /** Where this instance listens. */
  readonly url: string;
  readonly config: Config;
  readonly clock: Clock;
  readonly log: Log;
  readonly pool: Pool;
  readonly guard: Guard;
  readonly audit: AuditLog;
  readonly passwordAgain: PasswordAgain;
  readonly streams: OpenStreams;
  readonly gate: BrokerGate;
  readonly board: Board;
  readonly feed: Feed;
  readonly queries: RequestQueries;
  readonly lockouts: Lockouts;
  readonly ways: WayCounter;
  readonly deadlines: Deadlines;
  /** Ends what is open of a request; see the function of the same name. */
  readonly close: Close;
  readonly modelReload: ModelReload;
  readonly checker: DescriptionChecker;
  readonly runs: CommissioningRuns;
  readonly wire: Wire;
  readonly claims: TopicClaims;
  /** Descriptions that have topics are stored one after the other. */
  readonly inModelTurn: InTurn;
  readonly watchInputs: (watcher: InputWatcher) => () => void;
  readonly inlets: InletRegistry;
  /** How they do, at all instances, by identifier. */
  readonly inletHealth: () => Promise<ReadonlyMap<string, InletHealth>>;
  readonly alerts: Alerts;
  readonly statistics: Statistics;
  readonly credentials: Credentials;
  readonly notifications: Notifications;
  readonly requests: RequestService;
  readonly situationOf: (channel: ChannelId) => Situation;
  readonly status: Status;
  /** Of all instances that lead; see the function of the same name. @param sites that may be seen; null: all */
  readonly statusOfAll: (sites: readonly string[] | null) => Promise<StatusView>;
  readonly metrics: Metrics;
  /** Looks now who is to lead what, and hands it over. */
  readonly lookNow: () => void;
  /** The lanes of a site go to another shard; see `openDelivery`. */
  readonly moveSite: (site: string, to: number, record: (db: Db) => Promise<void>) => Promise<void>;
  /** Hands on what is about a site that another instance leads. @returns whether it did: nothing is to be answered here then */
  readonly handOn: (req: IncomingMessage, res: ServerResponse, site: string | null, body: object) => boolean;
  readonly ask: Ask;
  readonly askBriefly: AskBriefly;
}
