/** What may be asked of the service, by console, command line and web inlet alike. */
import type { Aim } from "@bold-relay/core";

/** The body of POST /api/v1/requests and POST /in/<inlet>. */
export interface AskBody {
  /**
   * Name or address of a channel, a group or a scene, 1 to 200 characters: "porch lantern, finch" or
   * "alder-row/finch/porch".
   */
  target: string;
  /** What it should do; a channel's kind says what it takes, a scene takes “recall”. */
  action: string;
  /** The number that some actions take: a level in %, or how far to step. Clamped to the channel's range. */
  value?: number;
  /** For how long, ms, 200 to 86 400 000; then the channel goes off again, whatever happens meanwhile. */
  forMs?: number;
  /** Answer at this stage instead of the channel's aim; never a higher one. */
  until?: Aim;
  /** At an inlet only: who asks, as the calling system knows them, 1 to 80 characters. */
  sender?: string;
}

/** The body of POST /api/v1/lockouts. */
export interface LockOutBody {
  /** A channel by name or address, or a device by address. */
  target: string;
  /** Why, 1 to 200 characters; told in every refusal. */
  reason?: string;
}

/** The body of POST /api/v1/lockouts/<id>/release. */
export interface ReleaseBody {
  /** Needed from anybody but the holder, 1 to 200 characters. */
  reason?: string;
}

/** The body of POST /api/v1/requests/<id>/close. */
export interface CloseBody {
  /** Why it need not be proven any more, 1 to 200 characters. */
  reason: string;
}

/** The body of POST /api/v1/session. */
export interface SignInBody {
  /** The member's name. */
  name: string;
  password: string;
}

/**
 * - reached: it got as far as its device can prove
 * - stopped: failed, unanswered or expired: something to look at
 * - replaced: superseded or overtaken by a newer one
 * - refused: nothing was sent, the reason is kept
 * - open: it has not ended
 */
export const DELIVERY_ENDS = ["reached", "stopped", "replaced", "refused", "open"] as const;
export type DeliveryEnd = (typeof DELIVERY_ENDS)[number];

/** The query of GET /api/v1/requests: the newest first, every filter narrows. */
export interface DeliveryQuery {
  /** How many, 1 to 200; default 50. */
  limit?: number;
  /** Go on after this request: the `next` of the page before. */
  before?: string;
  /** Only with a command for this channel, by name or address. */
  channel?: string;
  /** Only asked by this person or system, the whole name, capitals or not. */
  asker?: string;
  ended?: DeliveryEnd;
  /** Of the last 24 hours only: these words in the asker, the inlet, the target, or the channel's, room's or site's name. */
  words?: string;
}

/** The longest `Prefer: wait=` that is honoured, s (RFC 7240, section 4.3). A longer one waits this long. */
export const MAX_WAIT_S = 60;

/** The version of this release, of service, client and command line alike. */
export const VERSION = "0.1.0";
