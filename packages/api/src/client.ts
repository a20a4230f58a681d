/** The HTTP client that the console, the command line and the tests share. Long because every call of the interface stands in one place. */
import type { InletDescription, NotificationDescription, Profile, SiteDescription, SiteEdit } from "@bold-relay/core";
import type { AlertChangeBody, AlertView } from "./alert-view.ts";
import type {
  AskBody,
  CancelBody,
  ConfirmAppBody,
  LockOutBody,
  LogQuery,
  MemberBody,
  NewKeyBody,
  NewMemberBody,
  NewPasskeyBody,
  PasskeySignInBody,
  PasswordAgainBody,
  PasswordBody,
  PublishBody,
  ReleaseBody,
  ResetBody,
  SecondFactorBody,
  SetupBody,
  SignInBody,
  StepAnswerBody,
  TeamRulesBody,
  WireQuery,
} from "./ask.ts";
import type { BoardView, HistoryView, LockoutView, StatusView, TrendView } from "./channel-view.ts";
import { type LiveEvent, problemFrom, readEvents, type WireEvent } from "./client-answer.ts";
import type {
  CommissioningView,
  DescriptionCheckView,
  DescriptionKind,
  DescriptionVersionView,
  DeviceView,
  IdentifiedView,
  NewCredentialsView,
  PlanCheckView,
  ProfileTrialBody,
  ProfileTrialView,
  ProfileView,
  SiteDescriptionView,
  SitePlanView,
  VersionRecordView,
} from "./device-view.ts";
import type {
  InletDescriptionView,
  InletReply,
  InletView,
  LinkBody,
  LinkRecordView,
  LinkView,
  NewSecretView,
  PastBody,
  PastView,
  RehearsalBody,
  RehearsalView,
  RehearsedAskView,
  TrialBody,
  TrialView,
} from "./inlet-view.ts";
import type { NotificationDeliveryView, NotificationView } from "./notification-view.ts";
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
  ResetLinkView,
  SecondFactorView,
  SessionView,
  SetupView,
  TeamRulesView,
} from "./people-view.ts";
import { UnreachableError } from "./problem.ts";
import type { LogPage, RequestView, TraceView } from "./request-view.ts";
import type { StatisticsQuery, StatisticsView } from "./statistics-view.ts";

export interface ClientOptions {
  /** The service's address without a path: "http://127.0.0.1:4180". Empty in the console: its own origin. */
  baseUrl: string;
  /** Sent as bearer key. Left out in the console, which has a session cookie. */
  key?: string;
}

export interface AskOptions {
  /** `Prefer: wait`, s: how long the answer may wait for the outcome. Default: not at all. */
  waitS?: number;
  /** Ask at this inlet instead of as oneself. */
  inlet?: string;
  /** `Idempotency-Key`: calls with the same key are one call, however often they are made. */
  repeatKey?: string;
}

export type Client = ReturnType<typeof createClient>;

/** Every method rejects with ProblemError, or with UnreachableError when nothing answered. */
export function createClient({ baseUrl, key }: ClientOptions) {
  async function send(method: string, path: string, body?: unknown, more: RequestInit = {}): Promise<Response> {
    const headers = new Headers(more.headers);
    if (key !== undefined) headers.set("authorization", `Bearer ${key}`);
    if (body !== undefined) headers.set("content-type", "application/json");
    const init: RequestInit = { ...more, method, headers };
    if (body !== undefined) init.body = JSON.stringify(body);
    let response: Response;
    try {
      response = await fetch(`${baseUrl}${path}`, init);
    } catch (cause) {
      if (more.signal?.aborted) throw cause;
      throw new UnreachableError(baseUrl, cause);
    }
    if (!response.ok) throw await problemFrom(response, baseUrl);
    return response;
  }
  const json = async <Answer>(response: Promise<Response>): Promise<Answer> =>
    (await (await response).json()) as Answer;

  return {
    /**
     * The open alerts, the newest first.
     * @param all those that are resolved or snoozed, too
     */
    alerts: (all = false) => json<AlertView[]>(send("GET", `/api/v1/alerts${all ? "?all=true" : ""}`)),
    /** Assigns, notes, snoozes or resolves an alert. Resolves to it as it is then. */
    changeAlert: (body: AlertChangeBody) => json<AlertView>(send("POST", "/api/v1/alerts", body)),
    /**
     * Makes a lamp of a device blink.
     * @param device its address, “site/device”. Rejects with bad-request where it has no lamp.
     */
    identify: (device: string) => json<IdentifiedView>(send("POST", `/api/v1/devices/${device}/identify`, {})),
    /**
     * Gives a device a user of its own at the broker; the password is in the answer, and nowhere else.
     * @param overlapHours how long those that it has still count, 0 to 168
     */
    makeCredentials: (device: string, overlapHours = 0) =>
      json<NewCredentialsView>(send("POST", `/api/v1/devices/${addressPath(device)}/credentials`, { overlapHours })),
    /** Takes a device its user at the broker away: its connection ends at once. */
    revokeCredentials: async (device: string) =>
      void (await send("DELETE", `/api/v1/devices/${addressPath(device)}/credentials`)),
    /** All notifications, with what became of their last messages. */
    notifications: () => json<NotificationView[]>(send("GET", "/api/v1/notifications")),
    /**
     * @param version that it was changed from; 0: it must be new, null: whatever it is. Rejects with
     *   version-conflict.
     */
    saveNotification: (notification: NotificationDescription, version: number | null) =>
      json<NotificationView>(
        send("PUT", `/api/v1/notifications/${encodeURIComponent(notification.slug)}`, notification, {
          headers: ifMatch(version),
        }),
      ),
    /** Ends a notification. What waits to be sent is not sent. @param version that was looked at; null: whatever it is */
    removeNotification: async (slug: string, version: number | null = null) =>
      void (await send("DELETE", `/api/v1/notifications/${encodeURIComponent(slug)}`, undefined, {
        headers: ifMatch(version),
      })),
    /** A new secret for signatures (Standard Webhooks); it is in the answer, and nowhere else. */
    makeNotificationSecret: (slug: string) =>
      json<NewSecretView>(send("POST", `/api/v1/notifications/${encodeURIComponent(slug)}/secret`, {})),
    /** The last messages of a notification, newest first, with the answer of each address. */
    notificationLog: (slug: string) =>
      json<NotificationDeliveryView[]>(send("GET", `/api/v1/notifications/${encodeURIComponent(slug)}/log`)),
    /** All inlets that the caller may see, with their health and counts of a day. */
    inlets: () => json<InletView[]>(send("GET", "/api/v1/inlets")),
    /** The description of an inlet, with the version that it is at. */
    inlet: (slug: string) => json<InletDescriptionView>(send("GET", `/api/v1/inlets/${encodeURIComponent(slug)}`)),
    /** @param version that it was changed from; 0: it must be new, null: whatever it is */
    saveInlet: (inlet: InletDescription, version: number | null) =>
      json<InletDescriptionView>(
        send("PUT", `/api/v1/inlets/${encodeURIComponent(inlet.slug)}`, inlet, { headers: ifMatch(version) }),
      ),
    /** Deletes an inlet with its keys. Requests that it made stay on record. @param version that was looked at; null: whatever it is */
    removeInlet: async (slug: string, version: number | null = null) =>
      void (await send("DELETE", `/api/v1/inlets/${encodeURIComponent(slug)}`, undefined, {
        headers: ifMatch(version),
      })),
    /**
     * A new secret for signatures of an inlet; it is in the answer, and nowhere else. The one before counts no more.
     */
    makeSecret: (slug: string) =>
      json<NewSecretView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/secret`, {})),
    /** The signed links of an inlet that still count, newest first; never the links themselves. */
    links: (slug: string) => json<LinkRecordView[]>(send("GET", `/api/v1/inlets/${encodeURIComponent(slug)}/links`)),
    /** A link counts no more. */
    revokeLink: async (slug: string, id: string) =>
      void (await send("DELETE", `/api/v1/inlets/${encodeURIComponent(slug)}/links/${encodeURIComponent(id)}`)),
    /** A signed link that asks for one thing; it is in the answer, and nowhere else. */
    makeLink: (slug: string, body: LinkBody) =>
      json<LinkView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/links`, body)),
    /** What an arrival would do at an inlet, saved or edited. Nothing is sent, kept or counted. */
    rehearse: (slug: string, body: RehearsalBody) =>
      json<RehearsalView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/rehearse`, body)),
    /** What the last arrivals of an inlet would do with edited routes. Nothing is sent. */
    rehearsePast: (slug: string, body: PastBody) =>
      json<PastView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/past`, body)),
    /** Calls an inlet as an outside caller would. **What that asks is done.** */
    tryInlet: (slug: string, body: TrialBody) =>
      json<TrialView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/try`, body)),
    /** What a phrase would do if its speaker said it. Nothing is sent. */
    rehearsePhrase: (text: string) => json<RehearsalView>(send("POST", "/api/v1/phrases", { text, rehearse: true })),
    /**
     * Says a phrase as oneself.
     * @param waitS how long the answer may wait for the outcome, s
     */
    say: (text: string, waitS = 0) =>
      json<InletReply>(send("POST", "/api/v1/phrases", { text }, { headers: { prefer: `wait=${waitS}` } })),
    /** Signed in, or asked for the second factor. */
    signIn: (body: SignInBody) => json<SessionView | SecondFactorView>(send("POST", "/api/v1/session", body)),
    /** The second step of signing in, within five minutes of the first. */
    signInSecond: (body: SecondFactorBody) => json<SessionView>(send("POST", "/api/v1/session/second", body)),
    /** What the browser needs to sign in with a passkey (WebAuthn, 5.5). */
    passkeySignInOptions: () => json<PasskeyOptionsView>(send("POST", "/api/v1/session/passkey/options", {})),
    /** Signs in with what the browser made of those options. */
    signInWithPasskey: (body: PasskeySignInBody) => json<SessionView>(send("POST", "/api/v1/session/passkey", body)),
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
    /** Ends this session. */
    signOut: async () => void (await send("DELETE", "/api/v1/session")),
    /** Who is signed in, and what they may do. Rejects with not-signed-in (401). */
    session: () => json<SessionView>(send("GET", "/api/v1/session")),
    /** Whether database, broker and instances are up, and the counts of a day. */
    status: () => json<StatusView>(send("GET", "/api/v1/status")),
    /** Every channel that the caller may see, with what it was commanded and what it is. */
    board: () => json<BoardView>(send("GET", "/api/v1/board")),
    /** A request with its commands and their outcome. */
    request: (id: string) => json<RequestView>(send("GET", `/api/v1/requests/${encodeURIComponent(id)}`)),
    /** Every hop of a request, in order, with its bytes and times. */
    trace: (id: string) => json<TraceView>(send("GET", `/api/v1/requests/${encodeURIComponent(id)}/trace`)),
    /**
     * The log of requests, newest first, one page at a time: `next` of a page is the `before` of the one after it.
     */
    log: (query: LogQuery = {}) => json<LogPage>(send("GET", `/api/v1/requests${queryText(query)}`)),
    /** Asks; resolves to the request with its outcome, which is "open" if the wait was not long enough. */
    ask(body: AskBody, { waitS, inlet, repeatKey }: AskOptions = {}): Promise<RequestView> {
      const path = inlet === undefined ? "/api/v1/requests" : `/in/${encodeURIComponent(inlet)}`;
      const headers = new Headers();
      if (waitS !== undefined) headers.set("prefer", `wait=${waitS}`);
      if (repeatKey !== undefined) headers.set("idempotency-key", repeatKey);
      return json(send("POST", path, body, { headers }));
    },
    /** What an ask would send; nothing is sent, kept or counted. */
    rehearseAsk: (body: AskBody) => json<RehearsedAskView>(send("POST", "/api/v1/requests/rehearse", body)),
    /** Ends what is open of a request; resolves to it as it is then. */
    cancel: (id: string, body: CancelBody) =>
      json<RequestView>(send("POST", `/api/v1/requests/${encodeURIComponent(id)}/cancel`, body)),
    /**
     * @param address of a channel;
     * @param zone IANA time zone for the times in the answer
     */
    history: (address: string, zone: string) =>
      json<HistoryView>(
        send("GET", `/api/v1/channels/${addressPath(address)}/history?zone=${encodeURIComponent(zone)}`),
      ),
    /**
     * @param address of a channel;
     * @param days 1 to 90
     */
    trend: (address: string, days = 1) =>
      json<TrendView>(send("GET", `/api/v1/channels/${addressPath(address)}/trend?days=${days}`)),
    /** Success rate, counts and times over a period. */
    statistics: (query: StatisticsQuery = {}) =>
      json<StatisticsView>(send("GET", `/api/v1/statistics${queryText(query)}`)),
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
    /** Removes a member. Sessions, keys and open streams end at once. */
    removeMember: async (name: string) => void (await send("DELETE", `/api/v1/members/${encodeURIComponent(name)}`)),
    /** The keys that the caller may see, never the keys themselves. */
    keys: () => json<KeyView[]>(send("GET", "/api/v1/keys")),
    /** The key is in the answer, and nowhere else. */
    addKey: (body: NewKeyBody) => json<NewKeyView>(send("POST", "/api/v1/keys", body)),
    /** A key counts no more, from this moment. */
    revokeKey: async (id: number) => void (await send("DELETE", `/api/v1/keys/${id}`)),
    /**
     * Who changed what, newest first, one page at a time.
     * @param before the last entry of the page before
     */
    audit: (before?: string) =>
      json<AuditPage>(send("GET", `/api/v1/audit${before === undefined ? "" : `?before=${before}`}`)),
    /** @param slug of a site; its description with the version that it is at */
    site: (slug: string) =>
      json<SiteDescriptionView>(send("GET", `/api/v1/sites/${encodeURIComponent(slug)}/description`)),
    /** What a description would change, and what is wrong with it; nothing is changed. */
    checkSite: (site: SiteDescription) =>
      json<SitePlanView>(send("POST", `/api/v1/sites/${encodeURIComponent(site.slug)}/check`, site)),
    /** @param version that it was made from, 0 for a new site; null: whatever it is at */
    saveSite: (site: SiteDescription, version: number | null) =>
      json<SitePlanView>(
        send("PUT", `/api/v1/sites/${encodeURIComponent(site.slug)}/description`, site, { headers: ifMatch(version) }),
      ),
    /** Deletes a site with all that is in it; log and history stay. @param version that was looked at; null: whatever it is */
    deleteSite: async (slug: string, version: number | null) =>
      void (await send("DELETE", `/api/v1/sites/${encodeURIComponent(slug)}`, undefined, {
        headers: ifMatch(version),
      })),
    /**
     * Changes one part of a site, or its own fields. Resolves to what it changed.
     *
     * @param version that it was looked at; null: whatever it is
     * @param preview true: change nothing, and say what would change
     */
    changeSite: (slug: string, edit: SiteEdit, version: number | null, preview = false) =>
      json<SitePlanView>(
        send(METHODS[edit.edit], `/api/v1/${editPath(slug, edit)}${preview ? "?preview=true" : ""}`, fieldsOf(edit), {
          headers: ifMatch(version),
        }),
      ),
    /** The versions of a description that are kept, the newest first. */
    versions: (kind: DescriptionKind, slug: string) =>
      json<VersionRecordView[]>(send("GET", `/api/v1/descriptions/${kind}/${encodeURIComponent(slug)}/versions`)),
    /** A version of a description, and what saving it again would change. */
    version: (kind: DescriptionKind, slug: string, version: number) =>
      json<DescriptionVersionView>(
        send("GET", `/api/v1/descriptions/${kind}/${encodeURIComponent(slug)}/versions/${version}`),
      ),
    /** What is wrong with a description as it stands, and what saving it would change. Nothing is saved. */
    checkDescription: (kind: DescriptionKind, description: object) =>
      json<DescriptionCheckView>(
        send("POST", `/api/v1/descriptions/${kind}/${encodeURIComponent(slugIn(description))}/check`, description),
      ),
    /** What is wrong with the plan of a translator, its form and against the sites. Nothing is kept. */
    checkPlan: (plan: object) => json<PlanCheckView>(send("POST", "/api/v1/translators/check", plan)),
    /** The JSON Schema of a kind of description. */
    schema: (kind: DescriptionKind) => json<object>(send("GET", `/api/v1/schemas/${kind}`)),
    /** Deletes a profile that no device uses. @param version that was looked at; null: whatever it is */
    deleteProfile: async (slug: string, version: number | null) =>
      void (await send("DELETE", `/api/v1/profiles/${encodeURIComponent(slug)}`, undefined, {
        headers: ifMatch(version),
      })),
    /**
     * Every device that the caller may see, with presence, credentials and what keeps it from being commissioned.
     */
    devices: () => json<DeviceView[]>(send("GET", "/api/v1/devices")),
    /** The run that stands or the last one, then those before it. */
    commissionings: (device: string) =>
      json<CommissioningView[]>(send("GET", `/api/v1/devices/${addressPath(device)}/commissioning`)),
    /** Begins a commissioning run of a device; a run that stands is ended where it is. */
    commission: (device: string) =>
      json<CommissioningView>(send("POST", `/api/v1/devices/${addressPath(device)}/commissioning`, {})),
    /**
     * Begins a step of commissioning (`go`), or says what the person saw. Rejects with in-use while another step
     * runs.
     */
    commissioningStep: (device: string, body: StepAnswerBody) =>
      json<CommissioningView>(send("POST", `/api/v1/devices/${addressPath(device)}/commissioning/step`, body)),
    /** The profiles that ship and those of the team. */
    profiles: () => json<ProfileView[]>(send("GET", "/api/v1/profiles")),
    /** What a device of this profile would be sent, and what its messages would mean. Nothing is sent or kept. */
    tryProfile: (body: ProfileTrialBody) => json<ProfileTrialView>(send("POST", "/api/v1/profiles/try", body)),
    /**
     * Adds or changes a profile of the team. Rejects with in-use while a change would break a device.
     *
     * @param version that it was changed from; 0: it must be new, null: whatever it is
     */
    saveProfile: (profile: Profile, version: number | null) =>
      json<{ version: number }>(
        send("PUT", `/api/v1/profiles/${encodeURIComponent(profile.slug)}`, profile, { headers: ifMatch(version) }),
      ),
    /** Messages of the wire until the signal aborts or the connection ends. */
    wire({ filter, all = false }: WireQuery, onEvent: (event: WireEvent) => void, signal: AbortSignal) {
      const query = new URLSearchParams({ filter, ...(all ? { all: "true" } : {}) });
      const headers = new Headers({ accept: "text/event-stream" });
      return readEvents<WireEvent>(send("GET", `/api/v1/wire?${query}`, undefined, { signal, headers }), onEvent);
    },
    /** Writes one message by hand; it is in the audit. */
    publish: async (body: PublishBody) => void (await send("POST", "/api/v1/wire", body)),
    /** One's own password, with the present one. All other sessions end. */
    changePassword: async (body: PasswordBody) => void (await send("POST", "/api/v1/session/password", body)),
    /**
     * Locks a channel or a device out: every command is refused, with the name of who did it, until it is released.
     */
    lockOut: (body: LockOutBody) => json<LockoutView>(send("POST", "/api/v1/lockouts", body)),
    /** Releases a lock-out: one's own, or as an owner with a reason. */
    release: async (id: string, body: ReleaseBody = {}) =>
      void (await send("POST", `/api/v1/lockouts/${encodeURIComponent(id)}/release`, body)),
    /**
     * Live events until the signal aborts or the connection ends; reconnecting is the caller's to do, with the id of
     * the last event to go on where it was.
     */
    live(onEvent: (event: LiveEvent, id: string | undefined) => void, signal: AbortSignal, lastEventId?: string) {
      const headers = new Headers({ accept: "text/event-stream" });
      if (lastEventId !== undefined) headers.set("last-event-id", lastEventId);
      return readEvents<LiveEvent>(send("GET", "/api/v1/live", undefined, { signal, headers }), onEvent);
    },
  };
}

/** What is being written may have none so far, or anything. */
function slugIn(description: object): string {
  const { slug } = description as { slug?: unknown };
  return typeof slug === "string" && slug !== "" ? slug : "new";
}

const METHODS = { site: "PATCH", put: "PUT", patch: "PATCH", delete: "DELETE" } as const;

function editPath(site: string, edit: SiteEdit): string {
  const path = `sites/${encodeURIComponent(site)}`;
  if (edit.edit === "site") return path;
  // A channel is named with its device; the name of an interlock may hold anything.
  const name = edit.part === "channels" ? addressPath(edit.name) : encodeURIComponent(edit.name);
  return `${path}/${edit.part}/${name}`;
}

function fieldsOf(edit: SiteEdit): object | undefined {
  return "fields" in edit ? edit.fields : undefined;
}

/** RFC 9110, 13.1.1 and 13.1.2: only while it is at this version, or while there is none. */
function ifMatch(version: number | null): Headers {
  if (version === null) return new Headers({ "if-match": "*" });
  return new Headers(version === 0 ? { "if-none-match": "*" } : { "if-match": `"${version}"` });
}

/** Slashes stay, everything else that means something in a path does not. */
function addressPath(address: string): string {
  return address.split("/").map(encodeURIComponent).join("/");
}

/** @example queryText({ limit: 5, result: "refused" }) // → "?limit=5&result=refused" */
export function queryText(query: LogQuery | StatisticsQuery): string {
  const entries = Object.entries(query).filter(([, value]) => value !== undefined && value !== "");
  const text = new URLSearchParams(entries.map(([name, value]) => [name, String(value)])).toString();
  return text === "" ? "" : `?${text}`;
}
