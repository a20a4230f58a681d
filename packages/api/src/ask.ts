/** What may be asked of the service, by console, command line and web inlet alike. */
import type { Aim } from "@bold-relay/core";

/** The body of POST /api/v1/requests and POST /in/<inlet>. */
export interface AskBody {
  /** Name or address of one channel, 1 to 200 characters: "porch lantern, finch" or "alder-row/finch/porch". */
  target: string;
  /** What the channel should do; its kind says what it takes. */
  action: string;
  /** Answer at this stage instead of the channel's aim; never a higher one. */
  until?: Aim;
  /** At an inlet only: who asks, as the calling system knows them, 1 to 80 characters. */
  sender?: string;
}

/** The body of POST /api/v1/session. */
export interface SignInBody {
  /** The member's name. */
  name: string;
  password: string;
}

/** The query of GET /api/v1/requests: the newest requests first. */
export interface RequestQuery {
  /** How many, 1 to 200; default 20. */
  limit?: number;
  /** Only requests with a command for this channel, by address. */
  channel?: string;
}

/** The longest `Prefer: wait=` that is honoured, s (RFC 7240, section 4.3). A longer one waits this long. */
export const MAX_WAIT_S = 60;

/** The version of this release, of service, client and command line alike. */
export const VERSION = "0.1.0";
