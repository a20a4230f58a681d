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
  leaderSchema,
  lockOutSchema,
  logQuerySchema,
  memberDeletionSchema,
  memberSchema,
  newKeySchema,
  newMemberSchema,
  newPasskeySchema,
  passkeySignInSchema,
  passwordAgainSchema,
  passwordSchema,
  publishSchema,
  releaseSchema,
  resetCheckSchema,
  resetSchema,
  secondFactorSchema,
  setupSchema,
  shardCountSchema,
  shardSchema,
  signInSchema,
  stepAnswerSchema,
  teamRulesSchema,
  trendQuerySchema,
  wireQuerySchema,
} from "./ask.ts";
import { inletSchema, linkSchema, pastSchema, phraseSchema, rehearsalSchema, trialSchema } from "./inlet.ts";
import { mapQuerySchema } from "./map.ts";
import { notificationSchema } from "./notification.ts";
import { partSchema, patchSchema, previewQuerySchema } from "./part.ts";
import { newCredentialsSchema, profileSchema, profileTrialSchema, siteSchema } from "./site.ts";
import { statisticsCsvSchema, statisticsQuerySchema } from "./statistics.ts";

/** The name of a view; in brackets a list of it; as media types something else than JSON; null: no body. */
export type Answer = string | readonly [string] | { readonly media: readonly string[] } | null;

/** `anyone`: no sign-in · `member`: whoever is signed in · else the right, at one site at least. */
export type Access = Right | "anyone" | "member";

/**
 * Where the right is looked at again, for a call that changes something: between the guard and the effect it may have been taken away.
 * - stored: in the transaction that stores the effect
 * - accepted: in the statement that makes its requests durable
 * - told: after the body has been read, at once before it is carried out in memory
 * - own: it takes no right but what it shows: a password, a link, the session that it ends
 * - none: it changes nothing
 */
export type EffectCheck = "stored" | "accepted" | "told" | "own" | "none";

/**
 * Whose password, and second factor where there is one, must have been shown within the last 15 minutes. A key never counts as that.
 * - always: of everybody
 * - with-second-factor: of who has a second factor. The password alone is in the body already
 * - or-export-key: of who is signed in; or the key was created for exports
 */
export type RecentSignIn = "always" | "with-second-factor" | "or-export-key";

export interface Operation {
  readonly right: Access;
  /** Left out: any valid session or key will do. */
  readonly recentSignIn?: RecentSignIn;
  /** Of every call but GET. */
  readonly effect?: EffectCheck;
  readonly about: string;
  readonly query?: Joi.Schema;
  readonly body?: Joi.Schema;
  /** By status; errors are problems, whatever their status. */
  readonly answers: Readonly<Record<number, Answer>>;
  /** Whether `Prefer: wait` counts; `once`: `return=minimal` and `Idempotency-Key` too. */
  readonly waits?: true | "once";
  /** Whether `If-Match` is looked at. Where it is not optional, a call without it is refused. */
  readonly versioned?: true | "optional";
}

const DONE = { 204: null } as const;
const EVENTS = { 200: { media: ["text/event-stream"] } } as const;

/** By method and path, as the service registers them under /api/v1. */
export const operations = {
  "POST /session": {
    right: "anyone",
    effect: "own",
    about: "Sign in: set the session cookie, or ask for the second factor",
    body: signInSchema,
    answers: { 200: "SignedInView" },
  },
  "POST /session/second": {
    right: "anyone",
    effect: "own",
    about: "Sign in, second step: check the second factor",
    body: secondFactorSchema,
    answers: { 200: "SessionView" },
  },
  "POST /session/passkey/options": {
    right: "anyone",
    effect: "own",
    about: "Get the options with which a browser signs in by passkey",
    answers: { 200: "PasskeyOptionsView" },
  },
  "POST /session/passkey": {
    right: "anyone",
    effect: "own",
    about: "Sign in with a passkey",
    body: passkeySignInSchema,
    answers: { 200: "SessionView" },
  },
  "POST /session/reset": {
    right: "anyone",
    effect: "own",
    about: "Set a new password by a one-time link",
    body: resetSchema,
    answers: DONE,
  },
  "POST /session/reset/check": {
    right: "anyone",
    effect: "none",
    about: "Check a one-time link for a new password: whose it is, and which keys may end with it",
    body: resetCheckSchema,
    answers: { 200: "ResetCheckView" },
  },
  "GET /setup": {
    right: "anyone",
    about: "Check whether the installation has an owner",
    answers: { 200: "SetupView" },
  },
  "POST /setup": {
    right: "anyone",
    effect: "own",
    about: "Become the first owner, by the one-time link of the set-up; sets the session cookie",
    body: setupSchema,
    answers: { 200: "SessionView" },
  },
  "GET /account": {
    right: "member",
    about: "Get the caller's own sessions and second factor",
    answers: { 200: "AccountView" },
  },
  "DELETE /account/sessions/:id": {
    right: "member",
    effect: "stored",
    about: "End one of the caller's own sessions",
    answers: DONE,
  },
  "POST /account/app": {
    right: "member",
    recentSignIn: "with-second-factor",
    effect: "stored",
    about: "Create a secret for an authenticator app; it counts once it is confirmed",
    body: passwordAgainSchema,
    answers: { 201: "NewAppView" },
  },
  "PUT /account/app": {
    right: "member",
    effect: "stored",
    about: "Confirm the authenticator app with a first code; the recovery codes are shown once",
    body: confirmAppSchema,
    answers: { 200: "RecoveryCodesView" },
  },
  "POST /account/app/off": {
    right: "member",
    recentSignIn: "with-second-factor",
    effect: "stored",
    about: "Remove the authenticator app",
    body: passwordAgainSchema,
    answers: DONE,
  },
  "POST /account/passkeys/options": {
    right: "member",
    recentSignIn: "with-second-factor",
    effect: "none",
    about: "Get the options with which a browser creates a passkey; needs the password",
    body: passwordAgainSchema,
    answers: { 200: "PasskeyOptionsView" },
  },
  "POST /account/passkeys": {
    right: "member",
    effect: "stored",
    about: "Save a passkey",
    body: newPasskeySchema,
    answers: DONE,
  },
  "DELETE /account/passkeys/:id": {
    right: "member",
    recentSignIn: "always",
    effect: "stored",
    about: "Delete one of the caller's own passkeys",
    answers: DONE,
  },
  "POST /members/:name/reset": {
    right: "govern",
    recentSignIn: "always",
    effect: "stored",
    about: "Create a one-time link by which a member sets a new password",
    answers: { 201: "ResetLinkView" },
  },
  "POST /members/:name/second-factor/off": {
    right: "govern",
    recentSignIn: "with-second-factor",
    effect: "stored",
    about: "Remove a member's second factor; needs the caller's own password and a session",
    body: passwordAgainSchema,
    answers: DONE,
  },
  "GET /team/rules": {
    right: "govern",
    about: "Get the rule who needs a second factor",
    answers: { 200: "TeamRulesView" },
  },
  "PUT /team/rules": {
    right: "govern",
    recentSignIn: "always",
    effect: "stored",
    about: "Change the rule who needs a second factor",
    body: teamRulesSchema,
    answers: { 200: "TeamRulesView" },
  },
  "GET /session": { right: "member", about: "Get who is signed in", answers: { 200: "SessionView" } },
  "DELETE /session": { right: "member", effect: "own", about: "Sign out", answers: DONE },
  "POST /session/password": {
    right: "member",
    recentSignIn: "with-second-factor",
    effect: "stored",
    about: "Change the caller's password; ends the caller's other sessions",
    body: passwordSchema,
    answers: DONE,
  },
  "GET /board": {
    right: "see",
    about: "List every site with every channel: commanded value and state",
    answers: { 200: "BoardView" },
  },
  "GET /status": { right: "see", about: "Get the status of each part", answers: { 200: "StatusView" } },
  "GET /live": {
    right: "see",
    about: "Stream what happens, as server-sent events; `Last-Event-ID` resumes without a gap",
    answers: EVENTS,
  },
  "POST /requests": {
    right: "switch",
    effect: "accepted",
    about: "Send a request: switch a channel, a group or a scene",
    body: askSchema,
    waits: "once",
    answers: { 200: "AskedView", 202: "AskedView" },
  },
  "POST /requests/rehearse": {
    right: "switch",
    effect: "none",
    about: "Rehearse a request: show what it would send, and send nothing",
    body: askSchema,
    answers: { 200: "RehearsedAskView" },
  },
  "GET /requests": {
    right: "operate",
    about: "List the request log, newest first",
    query: logQuerySchema,
    answers: { 200: "LogPage" },
  },
  "GET /requests.:form": {
    right: "operate",
    recentSignIn: "or-export-key",
    about: "Export the request log as a file: `csv` or `jsonl`",
    query: logQuerySchema,
    answers: { 200: { media: ["text/csv", "application/jsonl"] } },
  },
  "GET /requests/:id": { right: "see", about: "Get a request as it is now", answers: { 200: "RequestView" } },
  "GET /requests/:id/trace": {
    right: "see",
    about: "Get the trace of a request: every hop with its bytes",
    answers: { 200: "TraceView" },
  },
  "POST /requests/:id/cancel": {
    right: "operate",
    effect: "told",
    about: "Cancel what is still open of a request",
    body: cancelSchema,
    answers: { 200: "RequestView" },
  },
  "GET /channels/:site/:device/:channel/history": {
    right: "see",
    about: "Get the history of a channel: its last 24 hours",
    query: historyQuerySchema,
    answers: { 200: "HistoryView" },
  },
  "GET /channels/:site/:device/:channel/trend": {
    right: "see",
    about: "Get the states of a channel over a longer time",
    query: trendQuerySchema,
    answers: { 200: "TrendView" },
  },
  "GET /statistics": {
    right: "operate",
    about: "Get statistics: counts, success rate and times",
    query: statisticsQuerySchema,
    answers: { 200: "StatisticsView" },
  },
  "GET /statistics.csv": {
    right: "operate",
    about: "Export the statistics as a table",
    query: statisticsCsvSchema,
    answers: { 200: { media: ["text/csv"] } },
  },
  "GET /map": {
    right: "operate",
    about: "Get the map as a drawing: who or what asks, what catches it, what it names, which channels it reaches",
    query: mapQuerySchema,
    answers: { 200: "MapView" },
  },
  "GET /map/reach": {
    right: "operate",
    about: "Get the map as a table; of a channel: everything that can switch it, and what stands in the way now",
    query: mapQuerySchema,
    answers: { 200: "MapReachPageView" },
  },
  "GET /map/reach.csv": {
    right: "operate",
    about: "Export the map as a table: a row for each channel that something reaches",
    query: mapQuerySchema,
    answers: { 200: { media: ["text/csv"] } },
  },
  "GET /map/findings": {
    right: "operate",
    about: "List what on the map is unused, cannot act, or is open to more than its owner may think",
    query: mapQuerySchema,
    answers: { 200: ["MapFindingView"] },
  },
  "GET /alerts": {
    right: "operate",
    about: "List alerts",
    query: alertsQuerySchema,
    answers: { 200: ["AlertView"] },
  },
  "POST /alerts": {
    right: "operate",
    effect: "stored",
    about: "Assign, note, snooze or resolve an alert",
    body: alertChangeSchema,
    answers: { 200: "AlertView" },
  },
  "POST /lockouts": {
    right: "operate",
    effect: "stored",
    about: "Lock out a channel or a device",
    body: lockOutSchema,
    answers: { 201: "LockoutView" },
  },
  "POST /lockouts/:id/release": {
    right: "operate",
    effect: "stored",
    about: "Release a lock-out",
    body: releaseSchema,
    answers: DONE,
  },
  "GET /devices": { right: "build", about: "List devices", answers: { 200: ["DeviceView"] } },
  "GET /devices/:site/:device/commissioning": {
    right: "build",
    about: "List the commissioning runs of a device, newest first",
    answers: { 200: ["CommissioningView"] },
  },
  "POST /devices/:site/:device/commissioning": {
    right: "build",
    effect: "told",
    about: "Start a commissioning run of a device",
    answers: { 201: "CommissioningView" },
  },
  "POST /devices/:site/:device/commissioning/step": {
    right: "build",
    effect: "told",
    about: "Continue a commissioning run, or answer what was seen",
    body: stepAnswerSchema,
    answers: { 200: "CommissioningView" },
  },
  "POST /devices/:site/:device/identify": {
    right: "build",
    effect: "accepted",
    about: "Identify a device: one of its lamps blinks",
    answers: { 200: "IdentifiedView" },
  },
  "POST /devices/:site/:device/credentials": {
    right: "build",
    effect: "stored",
    about: "Create the device's user at the broker; the password is shown once",
    body: newCredentialsSchema,
    answers: { 201: "NewCredentialsView" },
  },
  "DELETE /devices/:site/:device/credentials": {
    right: "build",
    effect: "stored",
    about: "Delete all users of the device at the broker",
    answers: DONE,
  },
  "GET /profiles": { right: "build", about: "List profiles", answers: { 200: ["ProfileView"] } },
  "POST /profiles/try": {
    right: "build",
    effect: "none",
    about: "Try a profile: show what it would write and how it would read messages; nothing is sent or saved",
    body: profileTrialSchema,
    answers: { 200: "ProfileTrialView" },
  },
  "PUT /profiles/:profile": {
    right: "build",
    effect: "stored",
    about: "Save a profile",
    body: profileSchema,
    versioned: "optional",
    answers: { 200: "VersionView" },
  },
  "PATCH /profiles/:profile": {
    right: "build",
    effect: "stored",
    about: "Change fields of a profile, as a merge patch (RFC 7396)",
    body: patchSchema,
    versioned: true,
    answers: { 200: "VersionView" },
  },
  "DELETE /profiles/:profile": {
    right: "build",
    effect: "stored",
    about: "Delete a profile that no device uses",
    versioned: "optional",
    answers: DONE,
  },
  "DELETE /sites/:site": {
    right: "build",
    effect: "stored",
    about: "Delete a site with its rooms, devices and channels; log and history stay",
    answers: DONE,
    versioned: true,
  },
  "PATCH /sites/:site": {
    right: "build",
    effect: "stored",
    about: "Change the name or the time zone of a site, as a merge patch (RFC 7396)",
    query: previewQuerySchema,
    body: patchSchema,
    versioned: true,
    answers: { 200: "SitePlanView" },
  },
  "PUT /sites/:site/:part/:name": {
    right: "build",
    effect: "stored",
    about: "Add or replace a room, device, group, scene or interlock of a site",
    query: previewQuerySchema,
    body: partSchema,
    versioned: true,
    answers: { 200: "SitePlanView" },
  },
  "PATCH /sites/:site/:part/:name": {
    right: "build",
    effect: "stored",
    about: "Change fields of a room, device, group, scene or interlock, as a merge patch (RFC 7396)",
    query: previewQuerySchema,
    body: patchSchema,
    versioned: true,
    answers: { 200: "SitePlanView" },
  },
  "DELETE /sites/:site/:part/:name": {
    right: "build",
    effect: "stored",
    about: "Delete a room without devices, a device, a group, a scene or an interlock; log and history stay",
    query: previewQuerySchema,
    versioned: true,
    answers: { 200: "SitePlanView" },
  },
  "PUT /sites/:site/channels/:device/:channel": {
    right: "build",
    effect: "stored",
    about: "Add or replace a channel of a device",
    query: previewQuerySchema,
    body: partSchema,
    versioned: true,
    answers: { 200: "SitePlanView" },
  },
  "PATCH /sites/:site/channels/:device/:channel": {
    right: "build",
    effect: "stored",
    about: "Change settings of a channel, as a merge patch (RFC 7396)",
    query: previewQuerySchema,
    body: patchSchema,
    versioned: true,
    answers: { 200: "SitePlanView" },
  },
  "DELETE /sites/:site/channels/:device/:channel": {
    right: "build",
    effect: "stored",
    about: "Delete a channel of a device; log and history stay",
    query: previewQuerySchema,
    versioned: true,
    answers: { 200: "SitePlanView" },
  },
  "GET /descriptions/:kind/:slug/versions": {
    right: "build",
    about: "List the versions of a description, the newest first",
    answers: { 200: ["VersionRecordView"] },
  },
  "GET /descriptions/:kind/:slug/versions/:version": {
    right: "build",
    about: "Get a version of a description, and what saving it again would change",
    answers: { 200: "DescriptionVersionView" },
  },
  "POST /translators/check": {
    right: "build",
    effect: "none",
    about:
      "Check the plan of a translator: its form, and whether its devices and channels are in their sites; nothing is kept",
    body: partSchema,
    answers: { 200: "PlanCheckView" },
  },
  "POST /descriptions/:kind/:slug/check": {
    right: "build",
    effect: "none",
    about: "Check a description: list all its mistakes with their places, and what saving it would change",
    body: partSchema,
    answers: { 200: "DescriptionCheckView" },
  },
  "GET /schemas/:kind": {
    right: "member",
    about: "Get the JSON Schema of a description: site, profile, inlet or notification",
    answers: { 200: "JsonSchemaView" },
  },
  "GET /sites": {
    right: "see",
    about: "List sites with their devices, channels and version",
    answers: { 200: ["SiteListView"] },
  },
  "GET /sites/:site/description": {
    right: "build",
    about: "Get the description of a site, as in a file",
    answers: { 200: "SiteDescriptionView" },
  },
  "POST /sites/:site/check": {
    right: "build",
    effect: "none",
    about: "Check the description of a site: show what it would change, and change nothing",
    body: siteSchema,
    answers: { 200: "SitePlanView" },
  },
  "PUT /sites/:site/description": {
    right: "build",
    effect: "stored",
    about: "Save the description of a site; it takes effect at once",
    body: siteSchema,
    versioned: true,
    answers: { 200: "SitePlanView" },
  },
  "GET /wire": {
    right: "build",
    about: "Stream the messages of the broker, as server-sent events",
    query: wireQuerySchema,
    answers: EVENTS,
  },
  "POST /wire": {
    right: "build",
    effect: "stored",
    about: "Publish one message by hand",
    body: publishSchema,
    answers: DONE,
  },
  "GET /inlets": { right: "build", about: "List inlets with their state and counts", answers: { 200: ["InletView"] } },
  "GET /inlets/:slug": {
    right: "build",
    about: "Get the description of an inlet",
    answers: { 200: "InletDescriptionView" },
  },
  "PUT /inlets/:slug": {
    right: "build",
    effect: "stored",
    about: "Save an inlet; it takes effect at once",
    body: inletSchema,
    versioned: true,
    answers: { 200: "InletDescriptionView" },
  },
  "PATCH /inlets/:slug": {
    right: "build",
    effect: "stored",
    about: "Change fields of an inlet, as a merge patch (RFC 7396)",
    body: patchSchema,
    versioned: true,
    answers: { 200: "InletDescriptionView" },
  },
  "DELETE /inlets/:slug": {
    right: "build",
    effect: "stored",
    about: "Delete an inlet and its keys",
    versioned: "optional",
    answers: DONE,
  },
  "POST /inlets/:slug/secret": {
    right: "build",
    recentSignIn: "always",
    effect: "stored",
    about: "Create a secret for signatures; it is shown once",
    answers: { 201: "NewSecretView" },
  },
  "GET /inlets/:slug/links": {
    right: "build",
    about: "List the valid links of an inlet, without their secrets",
    answers: { 200: ["LinkRecordView"] },
  },
  "DELETE /inlets/:slug/links/:id": { right: "build", effect: "stored", about: "Revoke a link", answers: DONE },
  "POST /inlets/:slug/links": {
    right: "build",
    effect: "stored",
    about: "Create a link that makes one request",
    body: linkSchema,
    answers: { 201: "LinkView" },
  },
  "POST /inlets/:slug/rehearse": {
    right: "build",
    effect: "none",
    about: "Rehearse an arrival: show what it would do, and send nothing",
    body: rehearsalSchema,
    answers: { 200: "RehearsalView" },
  },
  "GET /inlets/:slug/listen": {
    right: "build",
    about: "Stream what arrives at an inlet and what it could hear, as server-sent events, for five minutes at most",
    answers: EVENTS,
  },
  "POST /inlets/:slug/past": {
    right: "build",
    effect: "none",
    about: "Apply changed routes to past arrivals; nothing is sent",
    body: pastSchema,
    answers: { 200: "PastView" },
  },
  "POST /inlets/:slug/try": {
    right: "build",
    effect: "stored",
    about: "Send a test request to an inlet, through its own address",
    body: trialSchema,
    answers: { 200: "TrialView" },
  },
  "GET /notifications": { right: "build", about: "List notifications", answers: { 200: ["NotificationView"] } },
  "PUT /notifications/:slug": {
    right: "build",
    effect: "stored",
    about: "Save a notification",
    body: notificationSchema,
    versioned: true,
    answers: { 200: "NotificationView" },
  },
  "PATCH /notifications/:slug": {
    right: "build",
    effect: "stored",
    about: "Change fields of a notification, as a merge patch (RFC 7396)",
    body: patchSchema,
    versioned: true,
    answers: { 200: "NotificationView" },
  },
  "DELETE /notifications/:slug": {
    right: "build",
    effect: "stored",
    about: "Delete a notification",
    versioned: "optional",
    answers: DONE,
  },
  "POST /notifications/:slug/secret": {
    right: "build",
    effect: "stored",
    about: "Create a secret for its signatures; it is shown once",
    answers: { 201: "NewSecretView" },
  },
  "GET /notifications/:slug/log": {
    right: "build",
    about: "List the last messages of a notification",
    answers: { 200: ["NotificationDeliveryView"] },
  },
  "POST /phrases": {
    right: "switch",
    effect: "accepted",
    about: "Send a request as a phrase, or rehearse it",
    body: phraseSchema,
    waits: true,
    answers: { 200: "PhraseView" },
  },
  "GET /keys": { right: "build", about: "List valid keys, without their secrets", answers: { 200: ["KeyView"] } },
  "POST /keys": {
    right: "build",
    recentSignIn: "always",
    effect: "stored",
    about: "Create a key; it is shown once",
    body: newKeySchema,
    answers: { 201: "NewKeyView" },
  },
  "DELETE /keys/:id": { right: "build", effect: "stored", about: "Revoke a key", answers: DONE },
  "GET /members": { right: "govern", about: "List members", answers: { 200: ["MemberView"] } },
  "POST /members": {
    right: "govern",
    recentSignIn: "always",
    effect: "stored",
    about: "Add a member; the password, or the link of an invitation, is shown once",
    body: newMemberSchema,
    answers: { 201: "NewMemberView" },
  },
  "PUT /members/:name": {
    right: "govern",
    recentSignIn: "always",
    effect: "stored",
    about: "Set the roles of a member",
    body: memberSchema,
    answers: { 200: "StandingView" },
  },
  "DELETE /members/:name": {
    right: "govern",
    recentSignIn: "always",
    effect: "stored",
    about: "Delete a member; sessions and keys end at once",
    query: memberDeletionSchema,
    answers: DONE,
  },
  "GET /cluster": {
    right: "govern",
    about: "List the instances that run beside each other, and which of them leads",
    answers: { 200: "ClusterView" },
  },
  "PUT /cluster/leader": {
    right: "govern",
    effect: "stored",
    about: "Hand the lead over to another instance; requests wait meanwhile",
    body: leaderSchema,
    answers: DONE,
  },
  "PUT /cluster/shards": {
    right: "govern",
    effect: "stored",
    about: "Change the number of shards; sites stay where they are",
    body: shardCountSchema,
    answers: DONE,
  },
  "PUT /sites/:site/shard": {
    right: "govern",
    effect: "stored",
    about: "Move a site to another shard; what is asked meanwhile waits",
    body: shardSchema,
    answers: DONE,
  },
  "GET /openapi.json": { right: "member", about: "Get this description", answers: { 200: "OpenApiView" } },
  "GET /audit": {
    right: "govern",
    about: "List the audit log: every change, with before and after",
    query: auditQuerySchema,
    answers: { 200: "AuditPage" },
  },
} as const satisfies Readonly<Record<string, Operation>>;

/** What lies beside the API. */
export const otherOperations = {
  "POST /in/:inlet": {
    right: "anyone",
    effect: "accepted",
    about: "Send a request to a web inlet, with the inlet's key. Inlets of other kinds take other bodies",
    body: inletAskSchema,
    waits: "once",
    answers: { 200: "AskedView", 202: "AskedView" },
  },
  "GET /metrics": {
    right: "see",
    about: "Get metrics for a monitoring system",
    answers: { 200: { media: ["text/plain"] } },
  },
  "GET /health/live": { right: "anyone", about: "Check that the process is alive", answers: { 200: "LiveView" } },
  "GET /health/ready": {
    right: "anyone",
    about: "Check that it accepts requests; if not, what it waits for",
    answers: { 200: "ReadyView", 503: "ReadyView" },
  },
} as const satisfies Readonly<Record<string, Operation>>;

type Changing = Exclude<keyof typeof operations, `GET ${string}`>;
/** A call that changes something and does not say where its right is looked at again does not compile. */
const changing: { readonly [Name in Changing]: { readonly effect: EffectCheck } } = operations;

/** Where the right to a call is looked at again; null: it only reads. */
export function effectOf(name: OperationName): EffectCheck | null {
  return name in changing ? changing[name as Changing].effect : null;
}

/** Whether a call needs a recent sign-in; null: it does not. */
export function recentSignInOf(name: OperationName): RecentSignIn | null {
  const operation: Operation = name === "GET /metrics" ? otherOperations[name] : operations[name];
  return operation.recentSignIn ?? null;
}

/** What stands behind the guard: by method and path, as its routes are registered. */
export type OperationName = keyof typeof operations | "GET /metrics";

export function accessOf(name: OperationName): Access {
  return name === "GET /metrics" ? otherOperations[name].right : operations[name].right;
}

export const operationNames = [...Object.keys(operations), "GET /metrics"] as OperationName[];
