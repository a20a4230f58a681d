/** Calls about people: signing in, the own account, members, keys, the audit log. */

import type {
  ConfirmAppBody,
  LeaderBody,
  MemberBody,
  NewKeyBody,
  NewMemberBody,
  NewPasskeyBody,
  PasskeySignInBody,
  PasswordAgainBody,
  PasswordBody,
  ResetBody,
  ResetCheckBody,
  SecondFactorBody,
  SetupBody,
  ShardBody,
  ShardCountBody,
  SignInBody,
  TeamRulesBody,
} from "../ask.ts";
import type { ClusterView } from "../cluster-view.ts";
import type {
  AccountView,
  AuditPage,
  KeyView,
  MemberView,
  NewAppView,
  NewKeyView,
  NewMemberView,
  PasskeyOptionsView,
  RecoveryCodesView,
  ResetCheckView,
  ResetLinkView,
  SecondFactorView,
  SessionView,
  SetupView,
  TeamRulesView,
} from "../people-view.ts";
import type { Sender } from "./sender.ts";

export function peopleCalls({ send, json }: Sender) {
  return {
    /** Signed in, or asked for the second factor. */
    signIn: (body: SignInBody) => json<SessionView | SecondFactorView>(send("POST", "/api/v1/session", body)),
    /** The second step of signing in, within five minutes of the first. */
    signInSecond: (body: SecondFactorBody) => json<SessionView>(send("POST", "/api/v1/session/second", body)),
    /** What the browser needs to sign in with a passkey (WebAuthn, 5.5). */
    passkeySignInOptions: () => json<PasskeyOptionsView>(send("POST", "/api/v1/session/passkey/options", {})),
    /** Signs in with what the browser made of those options. */
    signInWithPasskey: (body: PasskeySignInBody) => json<SessionView>(send("POST", "/api/v1/session/passkey", body)),
    /** Whose one-time link it is, and which keys may end with it. */
    checkReset: (body: ResetCheckBody) => json<ResetCheckView>(send("POST", "/api/v1/session/reset/check", body)),
    /** Sets a new password with the one-time link that an owner made. */
    resetPassword: async (body: ResetBody) => void (await send("POST", "/api/v1/session/reset", body)),
    /** Whether the installation has an owner. */
    setupState: () => json<SetupView>(send("GET", "/api/v1/setup")),
    /** Makes the caller the first owner, and signs them in. */
    setUp: (body: SetupBody) => json<SessionView>(send("POST", "/api/v1/setup", body)),
    /** One's own sessions, authenticator app, passkeys and recovery codes. */
    account: () => json<AccountView>(send("GET", "/api/v1/account")),
    /** Ends another session of one's own. */
    endSession: async (id: string) => void (await send("DELETE", `/api/v1/account/sessions/${encodeURIComponent(id)}`)),
    /** A secret for an authenticator app (RFC 6238). It counts once it is confirmed. */
    newApp: (body: PasswordAgainBody) => json<NewAppView>(send("POST", "/api/v1/account/app", body)),
    /** Confirms the app with a code of it. The recovery codes are in the answer, and nowhere else. */
    confirmApp: (body: ConfirmAppBody) => json<RecoveryCodesView>(send("PUT", "/api/v1/account/app", body)),
    /** Removes one's own authenticator app. */
    removeApp: async (body: PasswordAgainBody) => void (await send("POST", "/api/v1/account/app/off", body)),
    /** What the browser needs to make a passkey (WebAuthn, 5.4). */
    passkeyOptions: (body: PasswordAgainBody) =>
      json<PasskeyOptionsView>(send("POST", "/api/v1/account/passkeys/options", body)),
    /** Keeps the passkey that the browser has made. */
    addPasskey: async (body: NewPasskeyBody) => void (await send("POST", "/api/v1/account/passkeys", body)),
    /** Removes a passkey of one's own. */
    removePasskey: async (id: string) =>
      void (await send("DELETE", `/api/v1/account/passkeys/${encodeURIComponent(id)}`)),
    /** The link is in the answer, and nowhere else. */
    resetMember: (name: string) =>
      json<ResetLinkView>(send("POST", `/api/v1/members/${encodeURIComponent(name)}/reset`, {})),
    /** Who must have a second factor, and other rules of the team. */
    teamRules: () => json<TeamRulesView>(send("GET", "/api/v1/team/rules")),
    /** Changes the rules of the team. */
    saveTeamRules: (body: TeamRulesBody) => json<TeamRulesView>(send("PUT", "/api/v1/team/rules", body)),
    /** Removes a member's second factor; their sessions end. For owners, with their own password. */
    removeSecondFactor: async (name: string, body: PasswordAgainBody) =>
      void (await send("POST", `/api/v1/members/${encodeURIComponent(name)}/second-factor/off`, body)),
    /** The members of the team, with their roles at each site. */
    members: () => json<MemberView[]>(send("GET", "/api/v1/members")),
    /** The password is in the answer, and nowhere else. */
    addMember: (body: Omit<NewMemberBody, "invite">) =>
      json<NewMemberView & { password: string }>(send("POST", "/api/v1/members", body)),
    /** Adds a member who chooses a password by a link, which is in the answer, and nowhere else. */
    inviteMember: (body: Omit<NewMemberBody, "invite">) =>
      json<NewMemberView & { invitation: ResetLinkView }>(send("POST", "/api/v1/members", { ...body, invite: true })),
    /** Their roles are exactly these from then on. */
    setRoles: async (name: string, body: MemberBody) =>
      void (await send("PUT", `/api/v1/members/${encodeURIComponent(name)}`, body)),
    /**
     * Removes a member. Sessions, keys and open streams end at once.
     * @param inletKeys what becomes of the keys of inlets that they have created; default "keep"
     */
    removeMember: async (name: string, inletKeys: "keep" | "revoke" = "keep") =>
      void (await send("DELETE", `/api/v1/members/${encodeURIComponent(name)}?inletKeys=${inletKeys}`)),
    /** The keys that the caller may see, never the keys themselves. */
    keys: () => json<KeyView[]>(send("GET", "/api/v1/keys")),
    /** The key is in the answer, and nowhere else. */
    addKey: (body: NewKeyBody) => json<NewKeyView>(send("POST", "/api/v1/keys", body)),
    /** The instances that run beside each other. */
    cluster: () => json<ClusterView>(send("GET", "/api/v1/cluster")),
    /** Another instance leads from now on; see `cluster` for when it does. */
    handOverLead: async (instance: string | null, shard?: number) =>
      void (await send("PUT", "/api/v1/cluster/leader", {
        instance,
        ...(shard === undefined ? {} : { shard }),
      } satisfies LeaderBody)),
    /** Changes the number of shards. */
    changeShardCount: async (count: number) =>
      void (await send("PUT", "/api/v1/cluster/shards", { count } satisfies ShardCountBody)),
    /** Moves a site to another shard. */
    moveSite: async (site: string, shard: number) =>
      void (await send("PUT", `/api/v1/sites/${encodeURIComponent(site)}/shard`, { shard } satisfies ShardBody)),
    /** A key counts no more, from this moment. */
    revokeKey: async (id: number) => void (await send("DELETE", `/api/v1/keys/${id}`)),
    /**
     * Who changed what, newest first, one page at a time.
     * @param before the last entry of the page before
     */
    audit: (before?: string) =>
      json<AuditPage>(send("GET", `/api/v1/audit${before === undefined ? "" : `?before=${before}`}`)),
    /** One's own password, with the present one. All other sessions end. */
    changePassword: async (body: PasswordBody) => void (await send("POST", "/api/v1/session/password", body)),
  };
}
