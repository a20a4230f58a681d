/** The HTTP client that the console, the command line and the tests share. */
import type { InletDescription, NoticeDescription, Profile, SiteDescription } from "@bold-relay/core";
import type {
  AskBody,
  CloseBody,
  ConfirmAppBody,
  DeliveryQuery,
  LockOutBody,
  MemberBody,
  NewKeyBody,
  NewMemberBody,
  NewPasskeyBody,
  PasskeySignInBody,
  PasswordAgainBody,
  PasswordBody,
  ProofAnswerBody,
  PublishBody,
  ReleaseBody,
  ResetBody,
  SecondFactorBody,
  SignInBody,
  TeamRulesBody,
  WireQuery,
} from "./ask.ts";
import type { CareBody, MatterView } from "./attention-view.ts";
import type { BoardView, DayView, HistoryView, LockoutView, StatusView } from "./channel-view.ts";
import { type LiveEvent, problemFrom, readEvents, type WireEvent } from "./client-answer.ts";
import type {
  CommissioningView,
  DeviceView,
  IdentifiedView,
  NewCredentialsView,
  ProfileTrialBody,
  ProfileTrialView,
  ProfileView,
  SiteDescriptionView,
  SitePlanView,
} from "./device-view.ts";
import type { FiguresQuery, FiguresView } from "./figures-view.ts";
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
import type { NoticeDeliveryView, NoticeView } from "./notice-view.ts";
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
  TeamRulesView,
} from "./people-view.ts";
import { UnreachableError } from "./problem.ts";
import type { DeliveryPage, RequestView, TraceView } from "./request-view.ts";

export interface ClientOptions {
  /** The service's address without a path: "http://127.0.0.1:4173". Empty in the console: its own origin. */
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
    /** @param all closed and muted ones too */
    attention: (all = false) => json<MatterView[]>(send("GET", `/api/v1/attention${all ? "?all=true" : ""}`)),
    care: (body: CareBody) => json<MatterView>(send("POST", "/api/v1/attention", body)),
    /** @param overlapHours how long those that it has still count */
    identify: (device: string) => json<IdentifiedView>(send("POST", `/api/v1/devices/${device}/identify`, {})),
    makeCredentials: (device: string, overlapHours = 0) =>
      json<NewCredentialsView>(send("POST", `/api/v1/devices/${addressPath(device)}/credentials`, { overlapHours })),
    revokeCredentials: async (device: string) =>
      void (await send("DELETE", `/api/v1/devices/${addressPath(device)}/credentials`)),
    notices: () => json<NoticeView[]>(send("GET", "/api/v1/notices")),
    saveNotice: (notice: NoticeDescription, version: number | null) =>
      json<NoticeView>(
        send("PUT", `/api/v1/notices/${encodeURIComponent(notice.slug)}`, notice, { headers: ifMatch(version) }),
      ),
    removeNotice: async (slug: string) => void (await send("DELETE", `/api/v1/notices/${encodeURIComponent(slug)}`)),
    makeNoticeSecret: (slug: string) =>
      json<NewSecretView>(send("POST", `/api/v1/notices/${encodeURIComponent(slug)}/secret`, {})),
    noticeLog: (slug: string) =>
      json<NoticeDeliveryView[]>(send("GET", `/api/v1/notices/${encodeURIComponent(slug)}/log`)),
    inlets: () => json<InletView[]>(send("GET", "/api/v1/inlets")),
    inlet: (slug: string) => json<InletDescriptionView>(send("GET", `/api/v1/inlets/${encodeURIComponent(slug)}`)),
    /** @param version that it was changed from; 0: it must be new, null: whatever it is */
    saveInlet: (inlet: InletDescription, version: number | null) =>
      json<InletDescriptionView>(
        send("PUT", `/api/v1/inlets/${encodeURIComponent(inlet.slug)}`, inlet, { headers: ifMatch(version) }),
      ),
    removeInlet: async (slug: string) => void (await send("DELETE", `/api/v1/inlets/${encodeURIComponent(slug)}`)),
    makeSecret: (slug: string) =>
      json<NewSecretView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/secret`, {})),
    links: (slug: string) => json<LinkRecordView[]>(send("GET", `/api/v1/inlets/${encodeURIComponent(slug)}/links`)),
    revokeLink: async (slug: string, id: string) =>
      void (await send("DELETE", `/api/v1/inlets/${encodeURIComponent(slug)}/links/${encodeURIComponent(id)}`)),
    makeLink: (slug: string, body: LinkBody) =>
      json<LinkView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/links`, body)),
    rehearse: (slug: string, body: RehearsalBody) =>
      json<RehearsalView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/rehearse`, body)),
    rehearsePast: (slug: string, body: PastBody) =>
      json<PastView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/past`, body)),
    tryInlet: (slug: string, body: TrialBody) =>
      json<TrialView>(send("POST", `/api/v1/inlets/${encodeURIComponent(slug)}/try`, body)),
    rehearsePhrase: (text: string) => json<RehearsalView>(send("POST", "/api/v1/phrases", { text, rehearse: true })),
    say: (text: string, waitS = 0) =>
      json<InletReply>(send("POST", "/api/v1/phrases", { text }, { headers: { prefer: `wait=${waitS}` } })),
    /** Signed in, or asked for the second factor. */
    signIn: (body: SignInBody) => json<SessionView | SecondFactorView>(send("POST", "/api/v1/session", body)),
    signInSecond: (body: SecondFactorBody) => json<SessionView>(send("POST", "/api/v1/session/second", body)),
    passkeySignInOptions: () => json<PasskeyOptionsView>(send("POST", "/api/v1/session/passkey/options", {})),
    signInWithPasskey: (body: PasskeySignInBody) => json<SessionView>(send("POST", "/api/v1/session/passkey", body)),
    resetPassword: async (body: ResetBody) => void (await send("POST", "/api/v1/session/reset", body)),
    account: () => json<AccountView>(send("GET", "/api/v1/account")),
    endSession: async (id: string) => void (await send("DELETE", `/api/v1/account/sessions/${encodeURIComponent(id)}`)),
    newApp: (body: PasswordAgainBody) => json<NewAppView>(send("POST", "/api/v1/account/app", body)),
    confirmApp: (body: ConfirmAppBody) => json<RecoveryCodesView>(send("PUT", "/api/v1/account/app", body)),
    removeApp: async (body: PasswordAgainBody) => void (await send("POST", "/api/v1/account/app/off", body)),
    passkeyOptions: (body: PasswordAgainBody) =>
      json<PasskeyOptionsView>(send("POST", "/api/v1/account/passkeys/options", body)),
    addPasskey: async (body: NewPasskeyBody) => void (await send("POST", "/api/v1/account/passkeys", body)),
    removePasskey: async (id: string) =>
      void (await send("DELETE", `/api/v1/account/passkeys/${encodeURIComponent(id)}`)),
    /** The link is in the answer, and nowhere else. */
    resetMember: (name: string) =>
      json<ResetLinkView>(send("POST", `/api/v1/members/${encodeURIComponent(name)}/reset`, {})),
    teamRules: () => json<TeamRulesView>(send("GET", "/api/v1/team/rules")),
    saveTeamRules: (body: TeamRulesBody) => json<TeamRulesView>(send("PUT", "/api/v1/team/rules", body)),
    signOut: async () => void (await send("DELETE", "/api/v1/session")),
    session: () => json<SessionView>(send("GET", "/api/v1/session")),
    status: () => json<StatusView>(send("GET", "/api/v1/status")),
    board: () => json<BoardView>(send("GET", "/api/v1/board")),
    request: (id: string) => json<RequestView>(send("GET", `/api/v1/requests/${encodeURIComponent(id)}`)),
    trace: (id: string) => json<TraceView>(send("GET", `/api/v1/requests/${encodeURIComponent(id)}/trace`)),
    deliveries: (query: DeliveryQuery = {}) => json<DeliveryPage>(send("GET", `/api/v1/requests${queryText(query)}`)),
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
    close: (id: string, body: CloseBody) =>
      json<RequestView>(send("POST", `/api/v1/requests/${encodeURIComponent(id)}/close`, body)),
    /** @param address of a channel; @param zone IANA time zone for the times in the answer */
    day: (address: string, zone: string) =>
      json<DayView>(send("GET", `/api/v1/channels/${addressPath(address)}/day?zone=${encodeURIComponent(zone)}`)),
    /** @param address of a channel; @param days 1 to 90 */
    history: (address: string, days = 1) =>
      json<HistoryView>(send("GET", `/api/v1/channels/${addressPath(address)}/history?days=${days}`)),
    /** How well it runs. */
    figures: (query: FiguresQuery = {}) => json<FiguresView>(send("GET", `/api/v1/figures${queryText(query)}`)),
    removeSecondFactor: async (name: string, body: PasswordAgainBody) =>
      void (await send("POST", `/api/v1/members/${encodeURIComponent(name)}/second-factor/off`, body)),
    members: () => json<MemberView[]>(send("GET", "/api/v1/members")),
    /** The password is in the answer, and nowhere else. */
    addMember: (body: NewMemberBody) => json<NewMemberView>(send("POST", "/api/v1/members", body)),
    /** Their roles are exactly these from then on. */
    setRoles: async (name: string, body: MemberBody) =>
      void (await send("PUT", `/api/v1/members/${encodeURIComponent(name)}`, body)),
    removeMember: async (name: string) => void (await send("DELETE", `/api/v1/members/${encodeURIComponent(name)}`)),
    keys: () => json<KeyView[]>(send("GET", "/api/v1/keys")),
    /** The key is in the answer, and nowhere else. */
    addKey: (body: NewKeyBody) => json<NewKeyView>(send("POST", "/api/v1/keys", body)),
    revokeKey: async (id: number) => void (await send("DELETE", `/api/v1/keys/${id}`)),
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
    devices: () => json<DeviceView[]>(send("GET", "/api/v1/devices")),
    /** The run that stands or the last one, then those before it. */
    commissionings: (device: string) =>
      json<CommissioningView[]>(send("GET", `/api/v1/devices/${addressPath(device)}/commissioning`)),
    commission: (device: string) =>
      json<CommissioningView>(send("POST", `/api/v1/devices/${addressPath(device)}/commissioning`, {})),
    proofStep: (device: string, body: ProofAnswerBody) =>
      json<CommissioningView>(send("POST", `/api/v1/devices/${addressPath(device)}/commissioning/step`, body)),
    profiles: () => json<ProfileView[]>(send("GET", "/api/v1/profiles")),
    tryProfile: (body: ProfileTrialBody) => json<ProfileTrialView>(send("POST", "/api/v1/profiles/try", body)),
    saveProfile: (profile: Profile) =>
      json<{ version: number }>(send("PUT", `/api/v1/profiles/${encodeURIComponent(profile.slug)}`, profile)),
    /** Messages of the wire until the signal aborts or the connection ends. */
    wire({ filter, all = false }: WireQuery, onEvent: (event: WireEvent) => void, signal: AbortSignal) {
      const query = new URLSearchParams({ filter, ...(all ? { all: "true" } : {}) });
      const headers = new Headers({ accept: "text/event-stream" });
      return readEvents<WireEvent>(send("GET", `/api/v1/wire?${query}`, undefined, { signal, headers }), onEvent);
    },
    /** Writes one message by hand; it is in the audit. */
    publish: async (body: PublishBody) => void (await send("POST", "/api/v1/wire", body)),
    changePassword: async (body: PasswordBody) => void (await send("POST", "/api/v1/session/password", body)),
    lockOut: (body: LockOutBody) => json<LockoutView>(send("POST", "/api/v1/lockouts", body)),
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

/** RFC 9110, 13.1.1 and 13.1.2: only while it is at this version, or while there is none. */
function ifMatch(version: number | null): Headers {
  if (version === null) return new Headers({ "if-match": "*" });
  return new Headers(version === 0 ? { "if-none-match": "*" } : { "if-match": `"${version}"` });
}

/** Slashes stay, everything else that means something in a path does not. */
function addressPath(address: string): string {
  return address.split("/").map(encodeURIComponent).join("/");
}

/** @example queryText({ limit: 5, ended: "stopped" }) // → "?limit=5&ended=stopped" */
export function queryText(query: DeliveryQuery | FiguresQuery): string {
  const entries = Object.entries(query).filter(([, value]) => value !== undefined && value !== "");
  const text = new URLSearchParams(entries.map(([name, value]) => [name, String(value)])).toString();
  return text === "" ? "" : `?${text}`;
}
