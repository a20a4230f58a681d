/** What the HTTP application is joined from. */
import type { ChannelId, Situation } from "@bold-relay/core";
import type { Attention } from "../attention/attention.ts";
import type { AuditLog } from "../audit-log.ts";
import type { OpenStreams } from "../auth/open-streams.ts";
import type { PasswordAgain } from "../auth/password-again.ts";
import type { BrokerGate } from "../broker-gate.ts";
import type { Clock } from "../clock.ts";
import type { Proofs } from "../commissioning/proofs.ts";
import type { Config } from "../config/config.ts";
import type { Credentials } from "../credentials/credentials.ts";
import type { DescriptionChecker } from "../description-check/description-checker.ts";
import type { FigureBook } from "../figures.ts";
import type { InletHouse } from "../inlets/house.ts";
import type { ReceptionDesk } from "../inlets/reception.ts";
import type { Feed } from "../live/feed.ts";
import type { Log } from "../log.ts";
import type { Metrics } from "../metrics.ts";
import type { Notices } from "../notices/notices.ts";
import type { Board } from "../pipeline/board.ts";
import type { Close } from "../pipeline/close.ts";
import type { Deadlines } from "../pipeline/deadlines.ts";
import type { Lockouts } from "../pipeline/lockouts.ts";
import type { Remodel } from "../pipeline/remodel.ts";
import type { Status } from "../status.ts";
import type { Pool } from "../store/pool.ts";
import type { Ask, AskBriefly } from "../view/ask.ts";
import type { Ledger } from "../view/ledger.ts";
import type { Wire } from "../wire/wire.ts";
import type { Guard } from "./permissions.ts";

export interface HttpParts {
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
  readonly ledger: Ledger;
  readonly lockouts: Lockouts;
  readonly deadlines: Deadlines;
  /** Ends what is open of a request; see the function of the same name. */
  readonly close: Close;
  readonly remodel: Remodel;
  readonly checker: DescriptionChecker;
  readonly proofs: Proofs;
  readonly wire: Wire;
  readonly house: InletHouse;
  readonly attention: Attention;
  readonly figures: FigureBook;
  readonly credentials: Credentials;
  readonly notices: Notices;
  readonly desk: ReceptionDesk;
  readonly situationOf: (channel: ChannelId) => Situation;
  readonly status: Status;
  readonly metrics: Metrics;
  readonly ask: Ask;
  readonly askBriefly: AskBriefly;
}
