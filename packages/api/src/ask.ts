/** What may be asked of the service, by console, command line and web inlet alike. */
import type { Role, TargetStage } from "@bold-relay/core";

/** The body of POST /api/v1/requests and POST /in/<inlet>. */
export interface AskBody {
  /**
   * Name or address of a channel, a group or a scene, 1 to 200 characters: "porch lantern, finch" or
   * "alder-row/finch/porch".
   */
  target: string;
  /** What it should do; a channel's kind says what it takes, a scene takes “recall”. */
  action: string;
  /**
   * What some actions take: a level in % or how far to step, clamped to the channel's range; or a colour, as #ff8800,
   * 255,136,0 or a name.
   */
  value?: number | string;
  /** For how long, ms, 200 to 86 400 000; then the channel goes off again, whatever happens meanwhile. */
  forMs?: number;
  /** Answer at this stage instead of the channel's target stage; never a higher one. */
  until?: TargetStage;
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
export interface CancelBody {
  /** Why it need not be proven any more, 1 to 200 characters. */
  reason: string;
}

/** The body of POST /api/v1/session/password. */
export interface PasswordBody {
  password: string;
  /** 12 to 200 characters, not guessed soon, not the one before. */
  next: string;
  /** Whether all keys of one's own end too; left out: they stay valid. */
  endKeys?: boolean;
}

/** The body of PUT /api/v1/members/<name>: their roles are exactly these from then on. */
export interface MemberBody {
  /** In the whole team; left out: only at the sites. */
  role?: Role;
  sites?: { site: string; role: Exclude<Role, "owner"> }[];
}

/** The body of POST /api/v1/members. */
export interface NewMemberBody extends MemberBody {
  name: string;
  /** true: the answer has a link by which they choose their password, and no password. */
  invite?: boolean;
}

/** The body of POST /api/v1/keys: one of the same name and holder ends, after the overlap. */
export interface NewKeyBody {
  /** What it is for, 1 to 80 characters. */
  name: string;
  /** Whose it is; left out: the caller's own. */
  inlet?: string;
  /** The most that it may do; left out: as much as its holder. */
  most?: Role;
  /** Slugs of the only sites that it reaches; left out: those of its holder. */
  sites?: string[];
  /** 1 to 3650; left out: 90; null: it does not expire. */
  expiresInDays?: number | null;
  /** How long the one before still counts, 0 to 720 h; left out: it ends at once. */
  overlapHours?: number;
  /** Whether it may export the request log; left out: it may not. */
  exports?: boolean;
}

/** The body of POST /api/v1/session/second: one of them. */
export interface SecondFactorBody {
  /** Of the answer to the sign-in. */
  ticket: string;
  /** Of an authenticator app, 6 digits. */
  code?: string;
  /** One of those that were shown once. */
  recoveryCode?: string;
  /** As the browser gives it (Web Authentication, AuthenticationResponseJSON). */
  passkey?: object;
}

/** The body of POST /api/v1/session/passkey. */
export interface PasskeySignInBody {
  ticket: string;
  passkey: object;
}

/** The body of POST /api/v1/session/reset. */
export interface ResetBody {
  /** What stands behind the "#" of the link. */
  token: string;
  password: string;
  /** Whether the member's keys end too; left out: they do. */
  endKeys?: boolean;
}

/** The body of POST /api/v1/session/reset/check. */
export interface ResetCheckBody {
  /** What stands behind the "#" of the link. */
  token: string;
}

/** The body of POST /api/v1/setup. */
export interface SetupBody {
  /** What stands behind the "#" of the link. */
  token: string;
  name: string;
  password: string;
}

/** The body of PUT /api/v1/account/app: the first code proves that the app has the secret. */
export interface ConfirmAppBody {
  code: string;
}

/** The body of what takes the password once more. */
export interface PasswordAgainBody {
  password: string;
}

/** The body of POST /api/v1/account/passkeys. */
export interface NewPasskeyBody {
  ticket: string;
  /** What the device is called, 1 to 80 characters. */
  name: string;
  /** As the browser gives it (Web Authentication, RegistrationResponseJSON). */
  passkey: object;
}

/** The body of PUT /api/v1/team/rules. */
export interface TeamRulesBody {
  /** Members whose highest role is one of these need a second factor. */
  secondFactorFor: Role[];
}

/** The body of PUT /api/v1/cluster/leader. */
export interface LeaderBody {
  /** The name of the instance that is to lead; null: whichever has room. */
  instance: string | null;
  /** Which shard, from 0; may be left out where there is one. */
  shard?: number;
}

/** The body of PUT /api/v1/cluster/shards. */
export interface ShardCountBody {
  /** How many shards there are to be, 1 to 256. */
  count: number;
}

/** The body of PUT /api/v1/sites/<site>/shard. */
export interface ShardBody {
  /** The number of the shard, from 0. */
  shard: number;
}

/** The body of POST /api/v1/session. */
export interface SignInBody {
  /** The member's name. */
  name: string;
  password: string;
}

/**
 * - delivered: it reached its target stage
 * - not-delivered: failed, unanswered or expired: something to look at
 * - replaced: replaced or overtaken by a newer one
 * - refused: nothing was sent, the reason is kept
 * - open: it has not ended
 */
export const LOG_RESULTS = ["delivered", "not-delivered", "replaced", "refused", "open"] as const;
export type LogResult = (typeof LOG_RESULTS)[number];

/** The query of GET /api/v1/requests: the newest first, every filter narrows. */
export interface LogQuery {
  /** How many, 1 to 200; default 50. */
  limit?: number;
  /** Go on after this request: the `next` of the page before. */
  before?: string;
  /** Only of these sites, by slug: with a command there, or refused there. */
  site?: string;
  /** Only with a command for this channel, by name or address. */
  channel?: string;
  /** Only asked by this person or system, the whole name, capitals or not. */
  asker?: string;
  result?: LogResult;
  /** Of the last 24 hours only: these words in the asker, the inlet, the target, or the channel's, room's or site's name. */
  words?: string;
}

/** The query of GET /api/v1/channels/<address>/history. */
export interface HistoryQuery {
  /** IANA time zone for the times in the answer; default UTC. */
  zone?: string;
  /** Only entries before this moment: the `older` of the page before. */
  before?: string;
  /** How many entries, 1 to 500; default 50. */
  limit?: number;
}

/** The longest `Prefer: wait=` that is honoured, s (RFC 7240, section 4.3). A longer one waits this long. */
export const MAX_WAIT_S = 60;

/** How our command line begins its User-Agent (RFC 9110, 10.1.5), so that its requests are recorded as such. */
export const CLI_AGENT = "bold-relay-cli/";

/** The version of this release, of service, client and command line alike. */
export const VERSION = "0.2.0";

/** GET /api/v1/wire */
export interface WireQuery {
  /** An MQTT topic filter, 1 to 200 characters. */
  filter: string;
  /** Command topics and what nobody claims too; default: only what devices say, and what the service writes. */
  all?: boolean;
}

/** The body of POST /api/v1/wire. */
export interface PublishBody {
  /** A topic without wildcards, never below $. */
  topic: string;
  /** At most 4096 characters; left out: nothing. */
  payload?: string;
  /** How the payload is written here. Default text. */
  as?: "text" | "hex";
  /** Default 1. */
  qos?: 0 | 1;
  /** Take away the retained message that lies on the topic, instead of writing one. */
  clear?: boolean;
  /** A lock-out of the caller's own stands there, and they know it. */
  confirm?: boolean;
}

/** The body of POST /api/v1/devices/<site>/<device>/commissioning/step. */
export interface StepAnswerBody {
  /** The step's name. */
  step: string;
  /** Begin it; or, where it asks: what was seen, `turned` for the opposite; or leave it out. */
  answer: "go" | "yes" | "no" | "turned" | "skip";
  /** Kept with the answer, 1 to 200 characters. */
  note?: string;
}
