/** Every call of the API: what it is for, what it takes, what it answers. The interface's description is made of it. */
import type Joi from "joi";
import {
  askSchema,
  auditQuerySchema,
  closeSchema,
  confirmAppSchema,
  dayQuerySchema,
  deliveryQuerySchema,
  historyQuerySchema,
  inletAskSchema,
  lockOutSchema,
  memberSchema,
  newKeySchema,
  newMemberSchema,
  newPasskeySchema,
  passkeySignInSchema,
  passwordAgainSchema,
  passwordSchema,
  proofAnswerSchema,
  publishSchema,
  releaseSchema,
  resetSchema,
  secondFactorSchema,
  signInSchema,
  teamRulesSchema,
  wireQuerySchema,
} from "./ask.ts";
import { attentionQuerySchema, careSchema } from "./attention.ts";
import { figuresCsvSchema, figuresQuerySchema } from "./figures.ts";
import { inletSchema, linkSchema, pastSchema, phraseSchema, rehearsalSchema, trialSchema } from "./inlet.ts";
import { noticeSchema } from "./notice.ts";
import { newCredentialsSchema, profileSchema, profileTrialSchema, siteSchema } from "./site.ts";

/** The name of a view; in brackets a list of it; as media types something else than JSON; null: no body. */
export type Answer = string | readonly [string] | { readonly media: readonly string[] } | null;

export interface Operation {
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
export const operations: Readonly<Record<string, Operation>> = {
  "POST /session": {
    about: "Sign in; sets the session cookie, or asks for the second factor",
    body: signInSchema,
    answers: { 200: "SignedInView" },
  },
  "POST /session/second": {
    about: "Show the second factor",
    body: secondFactorSchema,
    answers: { 200: "SessionView" },
  },
  "POST /session/passkey/options": {
    about: "What a browser needs to sign in with a passkey",
    answers: { 200: "PasskeyOptionsView" },
  },
  "POST /session/passkey": {
    about: "Sign in with a passkey",
    body: passkeySignInSchema,
    answers: { 200: "SessionView" },
  },
  "POST /session/reset": { about: "A new password, by a one-time link", body: resetSchema, answers: DONE },
  "GET /account": { about: "One's own sessions and second factor", answers: { 200: "AccountView" } },
  "DELETE /account/sessions/:id": { about: "End one of one's own sessions", answers: DONE },
  "POST /account/app": {
    about: "A secret for an authenticator app, to be confirmed",
    body: passwordAgainSchema,
    answers: { 201: "NewAppView" },
  },
  "PUT /account/app": {
    about: "Confirm it with a first code; the recovery codes are shown once",
    body: confirmAppSchema,
    answers: { 200: "RecoveryCodesView" },
  },
  "POST /account/app/off": { about: "Ask for no codes any more", body: passwordAgainSchema, answers: DONE },
  "POST /account/passkeys/options": {
    about: "What a browser needs to make a passkey; takes the password",
    body: passwordAgainSchema,
    answers: { 200: "PasskeyOptionsView" },
  },
  "POST /account/passkeys": { about: "Save a passkey", body: newPasskeySchema, answers: DONE },
  "DELETE /account/passkeys/:id": { about: "Delete a passkey of one's own", answers: DONE },
  "POST /members/:name/reset": {
    about: "A one-time link by which a member gives themselves a new password",
    answers: { 201: "ResetLinkView" },
  },
  "POST /members/:name/second-factor/off": {
    about: "Remove the second factor that a member has lost; takes the caller's own password, from a session only",
    body: passwordAgainSchema,
    answers: DONE,
  },
  "GET /team/rules": { about: "Who needs a second factor", answers: { 200: "TeamRulesView" } },
  "PUT /team/rules": {
    about: "Change who needs a second factor",
    body: teamRulesSchema,
    answers: { 200: "TeamRulesView" },
  },
  "GET /session": { about: "Who is signed in", answers: { 200: "SessionView" } },
  "DELETE /session": { about: "Sign out", answers: DONE },
  "POST /session/password": {
    about: "Change one's password; ends one's other sessions",
    body: passwordSchema,
    answers: DONE,
  },
  "GET /board": {
    about: "Every site with every channel: what it was told and what it is",
    answers: { 200: "BoardView" },
  },
  "GET /status": { about: "Is each part alive, and how does it go", answers: { 200: "StatusView" } },
  "GET /live": { about: "What happens, as server-sent events; `Last-Event-ID` goes on without a gap", answers: EVENTS },
  "POST /requests": {
    about: "Ask: switch a channel, a group or a scene",
    body: askSchema,
    waits: "once",
    answers: { 200: "AskedView", 202: "AskedView" },
  },
  "POST /requests/rehearse": {
    about: "What an ask would send; nothing is sent",
    body: askSchema,
    answers: { 200: "RehearsedAskView" },
  },
  "GET /requests": {
    about: "What was asked, newest first",
    query: deliveryQuerySchema,
    answers: { 200: "DeliveryPage" },
  },
  "GET /requests.:form": {
    about: "The same list whole, as a file: csv or jsonl",
    query: deliveryQuerySchema,
    answers: { 200: { media: ["text/csv", "application/jsonl"] } },
  },
  "GET /requests/:id": { about: "A request as it is now", answers: { 200: "RequestView" } },
  "GET /requests/:id/trace": { about: "Every hop of a request, with its bytes", answers: { 200: "TraceView" } },
  "POST /requests/:id/close": {
    about: "End what is open of a request, by a person's word",
    body: closeSchema,
    answers: { 200: "RequestView" },
  },
  "GET /channels/:site/:device/:channel/day": {
    about: "The last 24 hours of a channel",
    query: dayQuerySchema,
    answers: { 200: "DayView" },
  },
  "GET /channels/:site/:device/:channel/history": {
    about: "What a channel was over a longer time",
    query: historyQuerySchema,
    answers: { 200: "HistoryView" },
  },
  "GET /figures": { about: "How well it runs", query: figuresQuerySchema, answers: { 200: "FiguresView" } },
  "GET /figures.csv": {
    about: "The same as a table",
    query: figuresCsvSchema,
    answers: { 200: { media: ["text/csv"] } },
  },
  "GET /attention": {
    about: "What somebody should look at",
    query: attentionQuerySchema,
    answers: { 200: ["MatterView"] },
  },
  "POST /attention": { about: "Take, note, mute or close a matter", body: careSchema, answers: { 200: "MatterView" } },
  "POST /lockouts": { about: "Lock a channel or a device out", body: lockOutSchema, answers: { 201: "LockoutView" } },
  "POST /lockouts/:id/release": { about: "Release a lock-out", body: releaseSchema, answers: DONE },
  "GET /devices": { about: "Every device", answers: { 200: ["DeviceView"] } },
  "GET /devices/:site/:device/commissioning": {
    about: "The proofs of a device, newest first",
    answers: { 200: ["CommissioningView"] },
  },
  "POST /devices/:site/:device/commissioning": {
    about: "Begin to prove a device",
    answers: { 201: "CommissioningView" },
  },
  "POST /devices/:site/:device/commissioning/step": {
    about: "Go on, or say what was seen",
    body: proofAnswerSchema,
    answers: { 200: "CommissioningView" },
  },
  "POST /devices/:site/:device/identify": { about: "A lamp of it blinks", answers: { 200: "IdentifiedView" } },
  "POST /devices/:site/:device/credentials": {
    about: "A user at the broker for it, shown once",
    body: newCredentialsSchema,
    answers: { 201: "NewCredentialsView" },
  },
  "DELETE /devices/:site/:device/credentials": { about: "Take all its users at the broker back", answers: DONE },
  "GET /profiles": { about: "Every profile", answers: { 200: ["ProfileView"] } },
  "POST /profiles/try": {
    about: "What a profile would write, and how it would read messages; nothing is sent or saved",
    body: profileTrialSchema,
    answers: { 200: "ProfileTrialView" },
  },
  "PUT /profiles/:profile": { about: "Save a profile", body: profileSchema, answers: { 200: "VersionView" } },
  "GET /sites/:site/description": { about: "A site as a file has it", answers: { 200: "SiteDescriptionView" } },
  "POST /sites/:site/check": {
    about: "What a description would change; changes nothing",
    body: siteSchema,
    answers: { 200: "SitePlanView" },
  },
  "PUT /sites/:site/description": {
    about: "Take a site on, while it runs",
    body: siteSchema,
    versioned: true,
    answers: { 200: "SitePlanView" },
  },
  "GET /wire": { about: "Live messages of the broker, as server-sent events", query: wireQuerySchema, answers: EVENTS },
  "POST /wire": { about: "Write one message by hand", body: publishSchema, answers: DONE },
  "GET /inlets": { about: "The ways to ask, and how they do", answers: { 200: ["InletView"] } },
  "GET /inlets/:slug": { about: "An inlet as it is described", answers: { 200: "InletDescriptionView" } },
  "PUT /inlets/:slug": {
    about: "Save an inlet, while it runs",
    body: inletSchema,
    versioned: true,
    answers: { 200: "InletDescriptionView" },
  },
  "DELETE /inlets/:slug": { about: "Take an inlet and its keys away", answers: DONE },
  "POST /inlets/:slug/secret": { about: "A secret for signatures, shown once", answers: { 201: "NewSecretView" } },
  "GET /inlets/:slug/links": {
    about: "The links of an inlet that count; never the links themselves",
    answers: { 200: ["LinkRecordView"] },
  },
  "DELETE /inlets/:slug/links/:id": { about: "Revoke one link", answers: DONE },
  "POST /inlets/:slug/links": {
    about: "A link for people, that asks one thing",
    body: linkSchema,
    answers: { 201: "LinkView" },
  },
  "POST /inlets/:slug/rehearse": {
    about: "What an arrival would do; nothing is sent",
    body: rehearsalSchema,
    answers: { 200: "RehearsalView" },
  },
  "POST /inlets/:slug/past": {
    about: "What came before, by changed routes",
    body: pastSchema,
    answers: { 200: "PastView" },
  },
  "POST /inlets/:slug/try": {
    about: "Call an inlet for real, through its own socket",
    body: trialSchema,
    answers: { 200: "TrialView" },
  },
  "GET /notices": { about: "Who is told of what happens", answers: { 200: ["NoticeView"] } },
  "PUT /notices/:slug": { about: "Save a notice", body: noticeSchema, versioned: true, answers: { 200: "NoticeView" } },
  "DELETE /notices/:slug": { about: "Take a notice away", answers: DONE },
  "POST /notices/:slug/secret": { about: "A secret for its signatures, shown once", answers: { 201: "NewSecretView" } },
  "GET /notices/:slug/log": {
    about: "What it has told, and whether that was taken",
    answers: { 200: ["NoticeDeliveryView"] },
  },
  "POST /phrases": {
    about: "Say a phrase, or rehearse it",
    body: phraseSchema,
    waits: true,
    answers: { 200: "PhraseView" },
  },
  "GET /keys": { about: "Keys that count, never the keys themselves", answers: { 200: ["KeyView"] } },
  "POST /keys": { about: "A new key, shown once", body: newKeySchema, answers: { 201: "NewKeyView" } },
  "DELETE /keys/:id": { about: "Revoke a key", answers: DONE },
  "GET /members": { about: "Members of the team", answers: { 200: ["MemberView"] } },
  "POST /members": {
    about: "A new member; the password is shown once",
    body: newMemberSchema,
    answers: { 201: "NewMemberView" },
  },
  "PUT /members/:name": {
    about: "Give a member exactly these roles",
    body: memberSchema,
    answers: { 200: "StandingView" },
  },
  "DELETE /members/:name": { about: "Remove a member: everything ends at once", answers: DONE },
  "GET /openapi.json": { about: "This description", answers: { 200: "OpenApiView" } },
  "GET /audit": {
    about: "Every change, with before and after",
    query: auditQuerySchema,
    answers: { 200: "AuditPage" },
  },
};

/** What lies beside the API. */
export const otherOperations: Readonly<Record<string, Operation>> = {
  "POST /in/:inlet": {
    about: "Ask by a web inlet, with a key of its own. Inlets of other kinds take bodies of their own",
    body: inletAskSchema,
    waits: "once",
    answers: { 200: "AskedView", 202: "AskedView" },
  },
  "GET /metrics": { about: "For a monitoring system", answers: { 200: { media: ["text/plain"] } } },
  "GET /health/live": { about: "Whether the process lives", answers: { 200: "LiveView" } },
  "GET /health/ready": {
    about: "Whether it takes requests, and what it waits for if not",
    answers: { 200: "ReadyView", 503: "ReadyView" },
  },
};
