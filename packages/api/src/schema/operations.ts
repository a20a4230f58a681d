/**
 * Every call of the API: who may, what it is for, what it takes, what it answers. The guard before the routes and the interface's
 * description are made of it. Long because it is one table: a call is found by reading down.
 */
import type { Right } from "@bold-relay/core";
import type Joi from "joi";
import { alertChangeSchema, alertsQuerySchema } from "./alert.ts";
import {
  askSchema,
  auditQuerySchema,
  cancelSchema,
  confirmAppSchema,
  historyQuerySchema,
  inletAskSchema,
  lockOutSchema,
  logQuerySchema,
  memberSchema,
  newKeySchema,
  newMemberSchema,
  newPasskeySchema,
  passkeySignInSchema,
  passwordAgainSchema,
  passwordSchema,
  publishSchema,
  releaseSchema,
  resetSchema,
  secondFactorSchema,
  signInSchema,
  stepAnswerSchema,
  teamRulesSchema,
  trendQuerySchema,
  wireQuerySchema,
} from "./ask.ts";
import { inletSchema, linkSchema, pastSchema, phraseSchema, rehearsalSchema, trialSchema } from "./inlet.ts";
import { notificationSchema } from "./notification.ts";
import { newCredentialsSchema, profileSchema, profileTrialSchema, siteSchema } from "./site.ts";
import { statisticsCsvSchema, statisticsQuerySchema } from "./statistics.ts";

/** The name of a view; in brackets a list of it; as media types something else than JSON; null: no body. */
export type Answer = string | readonly [string] | { readonly media: readonly string[] } | null;

/** `anyone`: no sign-in · `member`: whoever is signed in · else the right, at one site at least. */
export type Access = Right | "anyone" | "member";

export interface Operation {
  readonly right: Access;
  readonly about: string;
  readonly query?: Joi.Schema;
  readonly body?: Joi.Schema;
  /** By status; errors are problems, whatever their status. */
  readonly answers: Readonly<Record<number, Answer>>;
  /** Whether `Prefer: wait` counts; `once`: `return=minimal` and `Idempotency-Key` too. */
  readonly waits?: true | "once";
  /** Whether `If-Match` is looked at. */
  readonly versioned?: true;
}

const DONE = { 204: null } as const;
const EVENTS = { 200: { media: ["text/event-stream"] } } as const;

/** By method and path, as the service registers them under /api/v1. */
export const operations = {
  "POST /session": {
    right: "anyone",
    about: "Sign in; sets the session cookie, or asks for the second factor",
    body: signInSchema,
    answers: { 200: "SignedInView" },
  },
  "POST /session/second": {
    right: "anyone",
    about: "Show the second factor",
    body: secondFactorSchema,
    answers: { 200: "SessionView" },
  },
  "POST /session/passkey/options": {
    right: "anyone",
    about: "What a browser needs to sign in with a passkey",
    answers: { 200: "PasskeyOptionsView" },
  },
  "POST /session/passkey": {
    right: "anyone",
    about: "Sign in with a passkey",
    body: passkeySignInSchema,
    answers: { 200: "SessionView" },
  },
  "POST /session/reset": {
    right: "anyone",
    about: "A new password, by a one-time link",
    body: resetSchema,
    answers: DONE,
  },
  "GET /account": { right: "member", about: "One's own sessions and second factor", answers: { 200: "AccountView" } },
  "DELETE /account/sessions/:id": { right: "member", about: "End one of one's own sessions", answers: DONE },
  "POST /account/app": {
    right: "member",
    about: "A secret for an authenticator app, to be confirmed",
    body: passwordAgainSchema,
    answers: { 201: "NewAppView" },
  },
  "PUT /account/app": {
    right: "member",
    about: "Confirm it with a first code; the recovery codes are shown once",
    body: confirmAppSchema,
    answers: { 200: "RecoveryCodesView" },
  },
  "POST /account/app/off": {
    right: "member",
    about: "Ask for no codes any more",
    body: passwordAgainSchema,
    answers: DONE,
  },
  "POST /account/passkeys/options": {
    right: "member",
    about: "What a browser needs to make a passkey; takes the password",
    body: passwordAgainSchema,
    answers: { 200: "PasskeyOptionsView" },
  },
  "POST /account/passkeys": { right: "member", about: "Save a passkey", body: newPasskeySchema, answers: DONE },
  "DELETE /account/passkeys/:id": { right: "member", about: "Delete a passkey of one's own", answers: DONE },
  "POST /members/:name/reset": {
    right: "govern",
    about: "A one-time link by which a member gives themselves a new password",
    answers: { 201: "ResetLinkView" },
  },
  "POST /members/:name/second-factor/off": {
    right: "govern",
    about: "Remove the second factor that a member has lost; takes the caller's own password, from a session only",
    body: passwordAgainSchema,
    answers: DONE,
  },
  "GET /team/rules": { right: "govern", about: "Who needs a second factor", answers: { 200: "TeamRulesView" } },
  "PUT /team/rules": {
    right: "govern",
    about: "Change who needs a second factor",
    body: teamRulesSchema,
    answers: { 200: "TeamRulesView" },
  },
  "GET /session": { right: "member", about: "Who is signed in", answers: { 200: "SessionView" } },
  "DELETE /session": { right: "member", about: "Sign out", answers: DONE },
  "POST /session/password": {
    right: "member",
    about: "Change one's password; ends one's other sessions",
    body: passwordSchema,
    answers: DONE,
  },
  "GET /board": {
    right: "see",
    about: "Every site with every channel: its commanded value and its state",
    answers: { 200: "BoardView" },
  },
  "GET /status": { right: "see", about: "Is each part alive, and how does it go", answers: { 200: "StatusView" } },
  "GET /live": {
    right: "see",
    about: "What happens, as server-sent events; `Last-Event-ID` goes on without a gap",
    answers: EVENTS,
  },
  "POST /requests": {
    right: "switch",
    about: "Ask: switch a channel, a group or a scene",
    body: askSchema,
    waits: "once",
    answers: { 200: "AskedView", 202: "AskedView" },
  },
  "POST /requests/rehearse": {
    right: "switch",
    about: "What an ask would send; nothing is sent",
    body: askSchema,
    answers: { 200: "RehearsedAskView" },
  },
  "GET /requests": {
    right: "operate",
    about: "The request log, newest first",
    query: logQuerySchema,
    answers: { 200: "LogPage" },
  },
  "GET /requests.:form": {
    right: "operate",
    about: "The same list whole, as a file: csv or jsonl",
    query: logQuerySchema,
    answers: { 200: { media: ["text/csv", "application/jsonl"] } },
  },
  "GET /requests/:id": { right: "see", about: "A request as it is now", answers: { 200: "RequestView" } },
  "GET /requests/:id/trace": {
    right: "see",
    about: "Every hop of a request, with its bytes",
    answers: { 200: "TraceView" },
  },
  "POST /requests/:id/cancel": {
    right: "operate",
    about: "End what is open of a request, by a person's word",
    body: cancelSchema,
    answers: { 200: "RequestView" },
  },
  "GET /channels/:site/:device/:channel/history": {
    right: "see",
    about: "The last 24 hours of a channel",
    query: historyQuerySchema,
    answers: { 200: "HistoryView" },
  },
  "GET /channels/:site/:device/:channel/trend": {
    right: "see",
    about: "What a channel was over a longer time",
    query: trendQuerySchema,
    answers: { 200: "TrendView" },
  },
  "GET /statistics": {
    right: "operate",
    about: "How well it runs",
    query: statisticsQuerySchema,
    answers: { 200: "StatisticsView" },
  },
  "GET /statistics.csv": {
    right: "operate",
    about: "The same as a table",
    query: statisticsCsvSchema,
    answers: { 200: { media: ["text/csv"] } },
  },
  "GET /alerts": {
    right: "operate",
    about: "What somebody should look at",
    query: alertsQuerySchema,
    answers: { 200: ["AlertView"] },
  },
  "POST /alerts": {
    right: "operate",
    about: "Take, note, mute or close a alert",
    body: alertChangeSchema,
    answers: { 200: "AlertView" },
  },
  "POST /lockouts": {
    right: "operate",
    about: "Lock a channel or a device out",
    body: lockOutSchema,
    answers: { 201: "LockoutView" },
  },
  "POST /lockouts/:id/release": { right: "operate", about: "Release a lock-out", body: releaseSchema, answers: DONE },
  "GET /devices": { right: "build", about: "Every device", answers: { 200: ["DeviceView"] } },
  "GET /devices/:site/:device/commissioning": {
    right: "build",
    about: "The proofs of a device, newest first",
    answers: { 200: ["CommissioningView"] },
  },
  "POST /devices/:site/:device/commissioning": {
    right: "build",
    about: "Start commissioning a device",
    answers: { 201: "CommissioningView" },
  },
  "POST /devices/:site/:device/commissioning/step": {
    right: "build",
    about: "Go on, or say what was seen",
    body: stepAnswerSchema,
    answers: { 200: "CommissioningView" },
  },
  "POST /devices/:site/:device/identify": {
    right: "build",
    about: "A lamp of it blinks",
    answers: { 200: "IdentifiedView" },
  },
  "POST /devices/:site/:device/credentials": {
    right: "build",
    about: "A user at the broker for it, shown once",
    body: newCredentialsSchema,
    answers: { 201: "NewCredentialsView" },
  },
  "DELETE /devices/:site/:device/credentials": {
    right: "build",
    about: "Take all its users at the broker back",
    answers: DONE,
  },
  "GET /profiles": { right: "build", about: "Every profile", answers: { 200: ["ProfileView"] } },
  "POST /profiles/try": {
    right: "build",
    about: "What a profile would write, and how it would read messages; nothing is sent or saved",
    body: profileTrialSchema,
    answers: { 200: "ProfileTrialView" },
  },
  "PUT /profiles/:profile": {
    right: "build",
    about: "Save a profile",
    body: profileSchema,
    answers: { 200: "VersionView" },
  },
  "GET /sites/:site/description": {
    right: "build",
    about: "A site as a file has it",
    answers: { 200: "SiteDescriptionView" },
  },
  "POST /sites/:site/check": {
    right: "build",
    about: "What a description would change; changes nothing",
    body: siteSchema,
    answers: { 200: "SitePlanView" },
  },
  "PUT /sites/:site/description": {
    right: "build",
    about: "Take a site on, while it runs",
    body: siteSchema,
    versioned: true,
    answers: { 200: "SitePlanView" },
  },
  "GET /wire": {
    right: "build",
    about: "Live messages of the broker, as server-sent events",
    query: wireQuerySchema,
    answers: EVENTS,
  },
  "POST /wire": { right: "build", about: "Write one message by hand", body: publishSchema, answers: DONE },
  "GET /inlets": { right: "build", about: "Inlets with their state and counts", answers: { 200: ["InletView"] } },
  "GET /inlets/:slug": {
    right: "build",
    about: "An inlet as it is described",
    answers: { 200: "InletDescriptionView" },
  },
  "PUT /inlets/:slug": {
    right: "build",
    about: "Save an inlet, while it runs",
    body: inletSchema,
    versioned: true,
    answers: { 200: "InletDescriptionView" },
  },
  "DELETE /inlets/:slug": { right: "build", about: "Take an inlet and its keys away", answers: DONE },
  "POST /inlets/:slug/secret": {
    right: "build",
    about: "A secret for signatures, shown once",
    answers: { 201: "NewSecretView" },
  },
  "GET /inlets/:slug/links": {
    right: "build",
    about: "The links of an inlet that count; never the links themselves",
    answers: { 200: ["LinkRecordView"] },
  },
  "DELETE /inlets/:slug/links/:id": { right: "build", about: "Revoke one link", answers: DONE },
  "POST /inlets/:slug/links": {
    right: "build",
    about: "A link for people, that asks one thing",
    body: linkSchema,
    answers: { 201: "LinkView" },
  },
  "POST /inlets/:slug/rehearse": {
    right: "build",
    about: "What an arrival would do; nothing is sent",
    body: rehearsalSchema,
    answers: { 200: "RehearsalView" },
  },
  "POST /inlets/:slug/past": {
    right: "build",
    about: "What came before, by changed routes",
    body: pastSchema,
    answers: { 200: "PastView" },
  },
  "POST /inlets/:slug/try": {
    right: "build",
    about: "Call an inlet for real, through its own socket",
    body: trialSchema,
    answers: { 200: "TrialView" },
  },
  "GET /notifications": { right: "build", about: "Notifications", answers: { 200: ["NotificationView"] } },
  "PUT /notifications/:slug": {
    right: "build",
    about: "Save a notification",
    body: notificationSchema,
    versioned: true,
    answers: { 200: "NotificationView" },
  },
  "DELETE /notifications/:slug": { right: "build", about: "Take a notification away", answers: DONE },
  "POST /notifications/:slug/secret": {
    right: "build",
    about: "A secret for its signatures, shown once",
    answers: { 201: "NewSecretView" },
  },
  "GET /notifications/:slug/log": {
    right: "build",
    about: "The last messages of a notification",
    answers: { 200: ["NotificationDeliveryView"] },
  },
  "POST /phrases": {
    right: "switch",
    about: "Say a phrase, or rehearse it",
    body: phraseSchema,
    waits: true,
    answers: { 200: "PhraseView" },
  },
  "GET /keys": { right: "build", about: "Keys that count, never the keys themselves", answers: { 200: ["KeyView"] } },
  "POST /keys": { right: "build", about: "A new key, shown once", body: newKeySchema, answers: { 201: "NewKeyView" } },
  "DELETE /keys/:id": { right: "build", about: "Revoke a key", answers: DONE },
  "GET /members": { right: "govern", about: "Members of the team", answers: { 200: ["MemberView"] } },
  "POST /members": {
    right: "govern",
    about: "A new member; the password is shown once",
    body: newMemberSchema,
    answers: { 201: "NewMemberView" },
  },
  "PUT /members/:name": {
    right: "govern",
    about: "Give a member exactly these roles",
    body: memberSchema,
    answers: { 200: "StandingView" },
  },
  "DELETE /members/:name": { right: "govern", about: "Remove a member: everything ends at once", answers: DONE },
  "GET /openapi.json": { right: "member", about: "This description", answers: { 200: "OpenApiView" } },
  "GET /audit": {
    right: "govern",
    about: "Every change, with before and after",
    query: auditQuerySchema,
    answers: { 200: "AuditPage" },
  },
} as const satisfies Readonly<Record<string, Operation>>;

/** What lies beside the API. */
export const otherOperations = {
  "POST /in/:inlet": {
    right: "anyone",
    about: "Ask by a web inlet, with a key of its own. Inlets of other kinds take bodies of their own",
    body: inletAskSchema,
    waits: "once",
    answers: { 200: "AskedView", 202: "AskedView" },
  },
  "GET /metrics": { right: "see", about: "For a monitoring system", answers: { 200: { media: ["text/plain"] } } },
  "GET /health/live": { right: "anyone", about: "Whether the process lives", answers: { 200: "LiveView" } },
  "GET /health/ready": {
    right: "anyone",
    about: "Whether it takes requests, and what it waits for if not",
    answers: { 200: "ReadyView", 503: "ReadyView" },
  },
} as const satisfies Readonly<Record<string, Operation>>;

/** What stands behind the guard: by method and path, as its routes are registered. */
export type OperationName = keyof typeof operations | "GET /metrics";

export function accessOf(name: OperationName): Access {
  return name === "GET /metrics" ? otherOperations[name].right : operations[name].right;
}

export const operationNames = [...Object.keys(operations), "GET /metrics"] as OperationName[];
