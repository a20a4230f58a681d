/** Sessions, accounts, members, keys and the audit log. */
import type { Role } from "@bold-relay/core";

/** GET /api/v1/setup */
export interface SetupView {
  /** Whether somebody can sign in as an owner. If not, the one-time link of the set-up leads on. */
  hasOwner: boolean;
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
  /** Whether they have shown their password, and second factor if they have one, within the last 15 minutes. */
  recent: boolean;
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

/** POST /api/v1/session/reset/check: whose link it is, and what may end with it. */
export interface ResetCheckView {
  name: string;
  /** Of theirs, valid now. */
  keys: { name: string; createdAt: string; expiresAt: string | null }[];
}

/** GET and PUT /api/v1/team/rules */
export interface TeamRulesView {
  secondFactorFor: Role[];
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
  /** null: they were invited. */
  password: string | null;
  /** The link by which an invited member chooses a password; null: they were not invited. */
  invitation: ResetLinkView | null;
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
  /** Whether it may export the request log. */
  exports: boolean;
  createdAt: string;
  /** The member who created it; null: the set-up program, or it is not known. */
  createdBy: string | null;
  /** Whether that member is deleted. */
  creatorIsGone: boolean;
  /** null: it does not expire. */
  expiresAt: string | null;
}

/** POST /api/v1/keys: the key itself is shown only once. */
export interface NewKeyView {
  /** By which it is listed and revoked. */
  id: number;
  name: string;
  holder: string;
  most: Role | null;
  sites: string[] | null;
  /** Whether it may export the request log. */
  exports: boolean;
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
