/** What the service answers. Times are RFC 3339 in UTC with ms; durations are ms with fractions. */
import type {
  Agreement,
  Aim,
  Cause,
  End,
  Hop,
  IgnoredWords,
  KindName,
  Outcome,
  RawMessage,
  Reason,
  Remark,
  RequesterKind,
  Role,
  Said,
  Stage,
  StaleWhy,
  Value,
  Verdict,
} from "@bold-relay/core";
import type { Problem } from "./problem.ts";

/** One command: how far it got and how it ended. */
export interface CommandView {
  id: string;
  requestId: string;
  /** The channel's address. */
  channel: string;
  channelName: string;
  room: string;
  to: Value;
  /** The setpoint as people say it: "on", "35 %". */
  toText: string;
  /** It overtakes everything, and is tried until it is proven or a person closes it. */
  urgent: boolean;
  /** For how long it was asked, ms; null: for good. */
  forMs: number | null;
  aim: Aim;
  stage: Stage;
  end: End | null;
  reason: Reason | null;
  attempts: number;
  /** The device's own result code; null: it gave none. */
  code: number | null;
  askedAt: string;
  /** When each stage was proven, ms after the asking; null for a hop that was never seen. */
  after: {
    accepted: number | null;
    published: number | null;
    acknowledged: number | null;
    confirmed: number | null;
    ended: number | null;
  };
  requester: RequesterKind;
  /** Who asked, and through which inlet; of an inlet the sender that it claims. */
  asker: string;
  inlet: string;
  verdict: Verdict;
  /** Confirmed by something else that sees the channel, not by its own device. */
  measured: boolean;
  /** What the device said while the command was open that proved nothing, and what to do; null: nothing of that kind. */
  ignored: IgnoredWords | null;
}

/** How a request went, and nothing else: the answer to who prefers `return=minimal` (RFC 7240, section 4.2). */
export type BriefView = Pick<RequestView, "id" | "outcome">;

/** One arrival with what became of it. */
export interface RequestView {
  id: string;
  at: string;
  /** A member who has shown who they are, an inlet with the sender that it claims, or a rule of ours. */
  requester: RequesterKind;
  inlet: string;
  asker: string;
  target: string;
  action: string;
  /** As it was asked; what it became after clamping is its command's “to”. */
  value: number | string | null;
  forMs: number | null;
  /** What came in at the inlet and how it was read; null where it was asked just so. */
  said: Said | null;
  /** The caller's place in a trace of its own (W3C Trace Context); null: it brought none. */
  traceparent: string | null;
  outcome: Outcome;
  /** Why it was refused or matched nothing; null when it was accepted. */
  refusal: Problem | null;
  commands: CommandView[];
}

/** GET /api/v1/requests */
export interface DeliveryPage {
  requests: RequestView[];
  /** Hand it back as `before` for the page after this one; null when there is none. */
  next: string | null;
}

/** One hop of a trace. */
export interface HopView {
  kind: Hop["kind"];
  /** ms after the asking. */
  afterMs: number;
  attempt?: number;
  code?: number;
  wire?: RawMessage;
  /** Of `sent`: the device was asked in the same moment what it is, for it seemed to be so already. */
  asked?: true;
  /** Of `confirmed`: the channel was so already. */
  already?: true;
  /** Of `confirmed`: measured by something else than its own device. */
  measured?: true;
  /** Of `ignored`: what it was taken for, and why it proved nothing. */
  remark?: Remark;
  /** Of `closed`: who closed it, and why. Of `refused` and `doubted`: what was said. */
  note?: string;
}

/** What was said back to whoever asked. */
export interface ReplyView {
  /** ms after the asking. */
  afterMs: number;
  /** As the answer to the call, posted to an address, published on a topic, or typed into a session. */
  how: "answer" | "post" | "topic" | "typed";
  said: string;
  /** Whether the other side took it, as far as its connection tells. */
  taken: boolean;
  /** Why not; null when it was. */
  why: string | null;
}

/** Everything about one request, in order, with times. */
export interface TraceView extends RequestView {
  /** The trace that its commands carry (W3C Trace Context): the caller's, or its own. 32 hexadecimal digits. */
  traceId: string;
  /** Oldest first. */
  replies: ReplyView[];
  traces: {
    command: CommandView;
    /** The device in words, and whether it is on the broker by its own word. */
    device: { name: string; present: boolean | null };
    hops: HopView[];
  }[];
}

/** A fact about a channel and since when. */
export interface CommandedView {
  value: Value;
  /** As people say it: "35 %". */
  text: string;
  commandId: string;
  requestId: string;
  at: string;
  requester: RequesterKind;
  asker: string;
  inlet: string;
}

export interface ObservedView {
  value: Value;
  text: string;
  /** Whether it is made, lit or moving. */
  on: boolean;
  cause: Cause;
  commandId: string | null;
  /** Since when it is so, as far as we know. */
  at: string;
  /** When it was last heard to be so; null: nobody knows. */
  asOf: string | null;
  /** Why it is not known to be so now; null: it is. */
  stale: StaleWhy | null;
  /** Told by other channels, not by its own device. */
  measured: boolean;
}

/** One channel: what it was told, what it is. */
export interface ChannelView {
  address: string;
  number: number;
  name: string;
  kind: KindName;
  actions: string[];
  /** It runs by being held: how long each asking lasts, ms; null: it does not. */
  holdForMs: number | null;
  room: { slug: string; name: string };
  device: { address: string; name: string; present: boolean | null; presentSince: string | null };
  commanded: CommandedView | null;
  observed: ObservedView | null;
  /** What its device says of its own output, in words, where something else tells its state; null: it says nothing. */
  claimed: string | null;
  agreement: Agreement;
  /** When it goes off by itself, if it does. */
  offAt: string | null;
  /** What a person should look at although no command failed of it. */
  concerns: { kind: string; text: string; since: string }[];
  lockout: LockoutView | null;
  lastCommand: CommandView | null;
}

/** A person's hold on a channel, or on its whole device. */
export interface LockoutView {
  id: string;
  holder: string;
  /** The member who holds it; see `id` of the session. */
  holderId: number | null;
  reason: string | null;
  /** Releasing it releases every channel of the device. */
  wholeDevice: boolean;
  since: string;
}

/** A group or a scene. */
export interface BundleView {
  kind: "group" | "scene";
  address: string;
  name: string;
  /** The addresses of its channels. */
  channels: string[];
  actions: string[];
}

export interface SiteView {
  slug: string;
  name: string;
  bundles: BundleView[];
  /** In schedule order. */
  channels: ChannelView[];
}

/** GET /api/v1/board */
export interface BoardView {
  /** When this was true. */
  at: string;
  sites: SiteView[];
}

export interface PartStatus {
  up: boolean;
  /** Last round trip, ms; null when there was none. */
  roundTripMs: number | null;
  /** What is wrong and what to do; null when nothing is. */
  trouble: string | null;
}

/** GET /api/v1/status */
export interface StatusView {
  version: string;
  startedAt: string;
  broker: PartStatus;
  journal: PartStatus;
  counts: {
    sites: number;
    devices: number;
    devicesAbsent: number;
    channels: number;
    on: number;
    drifting: number;
    unknown: number;
    openCommands: number;
  };
  /** How requests of the last 24 h ended, by outcome of their commands: of the premises that may be seen. */
  lastDay: { requests: number; complete: number; notReached: number; refused: number };
}

/** GET /api/v1/session */
export interface SessionView {
  /** The member's. */
  id: number;
  name: string;
  /** The highest role that the member has anywhere; null: none. */
  role: Role | null;
  /** Roles by site; null: the role is that of the whole team. */
  sites: { site: string; role: Role }[] | null;
  /** How the caller proved who they are. */
  by: "session" | "key";
  /** The role needs a second factor that is not there: until it is, only the account is open. */
  mustEnrol: boolean;
}

/** POST /api/v1/session, where the member has a second factor: nothing is open so far. */
export interface SecondFactorView {
  secondFactor: {
    /** Goes back with what proves it, to /api/v1/session/second. Counts five minutes, and five tries. */
    ticket: string;
    /** Whether an authenticator app is asked for. */
    app: boolean;
    /** For the browser (Web Authentication, PublicKeyCredentialRequestOptionsJSON); null: there is no passkey. */
    passkey: object | null;
  };
}

/** What a browser needs to make or use a passkey, and the ticket that goes back with it. */
export interface PasskeyOptionsView {
  ticket: string;
  options: object;
}

/** GET /api/v1/account: one's own. */
export interface AccountView {
  name: string;
  /** Whether the role needs a second factor. */
  secondFactorRequired: boolean;
  /** An owner removed it, and there is no new one yet; null: nobody did. */
  secondFactorRemoved: { by: string; at: string } | null;
  /** Whether an authenticator app is asked for. */
  app: boolean;
  recoveryCodes: number;
  passkeys: { id: string; name: string; createdAt: string; usedAt: string | null }[];
  sessions: {
    id: string;
    /** The one that asks. */
    current: boolean;
    createdAt: string;
    seenAt: string;
    expiresAt: string;
    address: string | null;
    /** What the browser calls itself. */
    agent: string | null;
    /** How the member proved who they are. */
    proof: string;
  }[];
}

/** POST /api/v1/account/app: shown only now, and to be confirmed with a first code. */
export interface NewAppView {
  secret: string;
  /** otpauth:// */
  uri: string;
}

/** PUT /api/v1/account/app: shown only once. */
export interface RecoveryCodesView {
  recoveryCodes: string[];
}

/** POST /api/v1/members/<name>/reset: the link is shown only once, and works once. */
export interface ResetLinkView {
  /** At the console. */
  path: string;
  expiresAt: string;
}

/** GET and PUT /api/v1/team/rules */
export interface TeamRulesView {
  secondFactorFor: Role[];
}

/** GET /api/v1/channels/<address>/day */
export interface DayView {
  channel: string;
  /** As people say it: "Porch lantern, Finch". */
  name: string;
  kind: string;
  /** From when to when. */
  from: string;
  at: string;
  /** One line, to copy or to read to a caller. */
  answer: string;
  /** How long it was on, ms. */
  onMs: number;
  /** Whether it was on when these 24 hours began. */
  wasOn: boolean;
  /** Oldest first. */
  entries: DayEntry[];
}

/** GET /api/v1/channels/<address>/history?days=7: a reading has a curve, everything else the time that it was on. */
export interface HistoryView {
  channel: string;
  name: string;
  kind: string;
  unit: string | null;
  /** IANA time zone of the days. */
  zone: string;
  /** From when to when. */
  from: string;
  at: string;
  /** Oldest first: what was read in each stretch of time in which something was, and when last. */
  readings: { at: string; low: number; high: number; last: number }[];
  /** Oldest first, today with them: how long it was on, ms. */
  days: { day: string; onMs: number }[];
}

export interface DayEntry {
  at: string;
  /** What the device said that it is, or what was asked of it. */
  kind: "change" | "command";
  /** In words. */
  is: string;
  /** Of a change: whether it was made, lit or moving from then on. */
  on: boolean | null;
  /** Who or what. */
  by: string;
  command: CommandView | null;
}

/** GET /api/v1/members: a member with their roles. */
export interface MemberView {
  name: string;
  /** In the whole team; null: only at the sites. */
  role: Role | null;
  sites: { site: string; role: Role }[];
  /** Whether they have an authenticator app or a passkey. */
  secondFactor: boolean;
  since: string;
}

/** POST /api/v1/members: shown only once. */
export interface NewMemberView extends Omit<MemberView, "secondFactor" | "since"> {
  password: string;
}

/** GET /api/v1/keys: everything but the key itself. */
export interface KeyView {
  id: number;
  name: string;
  /** Whose it is: a member's or an inlet's. */
  member: string | null;
  inlet: string | null;
  /** The most that it may do; null: as much as its holder. */
  most: Role | null;
  /** The only sites that it reaches; null: those of its holder. */
  sites: string[] | null;
  createdAt: string;
  /** null: it does not expire. */
  expiresAt: string | null;
}

/** POST /api/v1/keys: the key itself is shown only once. */
export interface NewKeyView {
  name: string;
  holder: string;
  /** What it got, which may be less than was asked: a key gives no more than the key that makes it. */
  most: Role | null;
  sites: string[] | null;
  expiresAt: string | null;
  key: string;
}

/** GET /api/v1/audit, newest first. */
export interface AuditPage {
  entries: {
    id: string;
    at: string;
    actor: string;
    /** The key that was shown; null: a session, or nobody who could show one. */
    keyId: number | null;
    /** Where the call came from; null: from the machine itself. */
    address: string | null;
    action: string;
    object: string;
    before: object | null;
    after: object | null;
  }[];
  /** Hand it back as `before` for the page after this one; null when there is none. */
  next: string | null;
}

/** Server-sent events of GET /api/v1/live, by name. */
export interface LiveEvents {
  /**
   * First on every connection: from now on nothing is missed. `resumed`: what was missed since `Last-Event-ID`
   * follows; else read the board afresh.
   */
  hello: { at: string; resumed: boolean };
  /** `Last-Event-ID` is too old, or of another start: what was missed is not known. */
  reset: Record<string, never>;
  /** A channel's state or its last command changed. */
  channel: ChannelView;
  /** A request changed; its trace tells more. `outcome` is null when only its trace has: something was said back. */
  request: { id: string; outcome: Outcome | null };
  /** What these sites are made of has changed: read the board afresh. */
  model: { sites: string[] };
  /** What needs attention has changed; so many matters are open in the whole team. */
  attention: { open: number };
  /** Broker or journal came or went. */
  status: Pick<StatusView, "broker" | "journal">;
}
