/**
 * Every error that a caller can meet: a stable code, its HTTP status, whether the same call may
 * succeed later, and a sentence that says what to do. docs/reference/errors.md is made of it.
 * Long because it is one table.
 */
export interface ErrorKind {
  readonly status: number;
  readonly retryable: boolean;
  readonly title: string;
  /** Facts in {braces} are filled in. */
  readonly sentence: string;
}

export const errorCatalogue = {
  "bad-json": {
    status: 400,
    retryable: false,
    title: "The body is not JSON",
    sentence: "The body could not be read as JSON: {why}. Send one JSON object in UTF-8.",
  },
  "bad-request": {
    status: 400,
    retryable: false,
    title: "The request is not valid",
    sentence: "{why}. Nothing was sent to any device.",
  },
  "not-signed-in": {
    status: 401,
    retryable: false,
    title: "Not signed in",
    sentence: "This needs a session or a key. Sign in at the console, or send Authorization: Bearer with a key.",
  },
  "wrong-password": {
    status: 401,
    retryable: false,
    title: "Name or password is wrong",
    sentence: "No member has this name with this password. Check both; capitals count in the password.",
  },
  "wrong-own-password": {
    status: 403,
    retryable: false,
    title: "Your password is wrong",
    sentence: "This is not your password. Nothing was changed. Capitals count in the password.",
  },
  "wrong-second-factor": {
    status: 401,
    retryable: false,
    title: "The second factor is wrong",
    sentence:
      "This code or passkey does not belong to this sign-in, was used before, or came too late. Try again with a new one.",
  },
  "sign-in-over": {
    status: 401,
    retryable: false,
    title: "The sign-in took too long",
    sentence:
      "This sign-in has expired. The second factor must come within five minutes and five attempts. Sign in again with name and password.",
  },
  "wrong-link": {
    status: 401,
    retryable: false,
    title: "The link is no longer valid",
    sentence:
      "This link was used before, has expired, or was replaced by a newer one. Ask an owner of the team for a new one.",
  },
  "wrong-setup-link": {
    status: 401,
    retryable: false,
    title: "The set-up link is not valid",
    sentence:
      "This link was used before or has expired, or the installation has an owner. Sign in, or run bold-relay-server setup on the machine for a new link.",
  },
  "second-factor-required": {
    status: 403,
    retryable: false,
    title: "A second factor is required",
    sentence:
      "Your role needs a second factor. Sign in at the console, open Account and add a passkey or an authenticator app.",
  },
  "recent-sign-in-required": {
    status: 403,
    retryable: false,
    title: "A recent sign-in is required",
    sentence:
      "This needs your password, and your second factor if you have one, shown within the last {minutes} minutes. A key is not enough. Sign in again, then repeat the call.",
  },
  "weak-password": {
    status: 422,
    retryable: false,
    title: "The password is too weak",
    sentence: "{why}. Nothing was changed.",
  },
  "wrong-key": {
    status: 401,
    retryable: false,
    title: "The key is not valid here",
    sentence: "No valid key was sent for this address. Send the key of this inlet as Authorization: Bearer.",
  },
  "pin-needed": {
    status: 401,
    retryable: false,
    title: "The PIN is needed",
    sentence: "This panel asks for its PIN. Enter it, then try again.",
  },
  "wrong-pin": {
    status: 403,
    retryable: false,
    title: "The PIN is wrong",
    sentence: "This is not the PIN of the panel. After ten wrong ones nobody can enter it for five minutes.",
  },
  "not-permitted": {
    status: 403,
    retryable: false,
    title: "Not permitted",
    sentence: "{why}.",
  },
  "cross-site": {
    status: 403,
    retryable: false,
    title: "The call came from another site",
    sentence:
      "A session cookie only counts for calls from the console's own pages. Use a key for calls from elsewhere.",
  },
  "no-broker-admin": {
    status: 409,
    retryable: false,
    title: "The service cannot create users at the broker",
    sentence:
      "The service has no broker user that may create others. Set BOLD_RELAY_BROKER_ADMIN_USER and its password, or create the user of the device yourself: bold-relay devices --access.",
  },
  "no-secrets-key": {
    status: 409,
    retryable: false,
    title: "Secrets cannot be stored",
    sentence: "The service has no key that encrypts secrets. Set BOLD_RELAY_SECRETS_KEY and restart it.",
  },
  "inlet-wrong": {
    status: 422,
    retryable: false,
    title: "The description of the inlet has errors",
    sentence: "{why} Nothing was changed.",
  },
  "not-found": {
    status: 404,
    retryable: false,
    title: "Not found",
    sentence: "{what} was not found. It was deleted, or its name has a mistake.",
  },
  "wrong-method": {
    status: 405,
    retryable: false,
    title: "This address takes another method",
    sentence: "This address takes {allowed}.",
  },
  "body-too-large": {
    status: 413,
    retryable: false,
    title: "The body is too large",
    sentence: "The body is larger than {limit} bytes. Nothing was sent to any device.",
  },
  "wrong-content-type": {
    status: 415,
    retryable: false,
    title: "The body is not declared as JSON",
    sentence: "Send the body as Content-Type: application/json.",
  },
  "wrong-encoding": {
    status: 415,
    retryable: false,
    title: "The body is compressed",
    sentence: "Nothing was read. Send the body as it is, without Content-Encoding.",
  },
  "body-too-slow": {
    status: 408,
    retryable: true,
    title: "The body took too long",
    sentence: "The body did not arrive within {limit} s. Nothing was sent to any device.",
  },
  "not-on-map": {
    status: 404,
    retryable: false,
    title: "Not on the map",
    sentence: "Nothing on the map is called “{target}”, or several things are. {choices}",
  },
  "unknown-channel": {
    status: 422,
    retryable: false,
    title: "Nothing has this name",
    sentence: "No channel, group or scene is called “{target}”. Nothing was sent. {choices}",
  },
  "ambiguous-name": {
    status: 422,
    retryable: false,
    title: "Several have this name",
    sentence: "“{target}” can mean several. Nothing was sent. {choices}",
  },
  "wildcard-in-name": {
    status: 422,
    retryable: false,
    title: "A name cannot hold a wildcard",
    sentence:
      "“{target}” holds “{character}”, which no name or address can. Name one channel, group or scene. Nothing was sent.",
  },
  "not-understood": {
    status: 422,
    retryable: false,
    title: "It could not be understood",
    sentence: "Nothing was done: {why}",
  },
  "no-route": {
    status: 422,
    retryable: false,
    title: "No route matches",
    sentence: "It arrived at {inlet}, but none of its routes matches. Rehearse it there, and add or change a route.",
  },
  "going-round": {
    status: 422,
    retryable: false,
    title: "The request is in a loop",
    sentence:
      "The same trace arrived here several times. Something makes a new request from each command. Nothing was sent. Find what republishes the messages.",
  },
  "unknown-action": {
    status: 422,
    retryable: false,
    title: "It does not take this action",
    sentence: "A {kind} does not take “{action}”. Nothing was sent. {choices}",
  },
  "beyond-target-stage": {
    status: 422,
    retryable: false,
    title: "This device cannot prove that much",
    sentence:
      "{target} can prove “{targetStage}” at most, not “{until}”. Request “{targetStage}” or leave it out. Nothing was sent.",
  },
  "value-needed": {
    status: 422,
    retryable: false,
    title: "The action needs a number",
    sentence: "To set the {action} of a {kind}, say a value from {least} to {most} {unit}. Nothing was sent.",
  },
  "pattern-needed": {
    status: 422,
    retryable: false,
    title: "The action needs colours",
    sentence:
      "“{action}” needs colours one after the other, {most} at most: “red, green, #0000ff”. They repeat along the string. Nothing was sent.",
  },
  "colour-needed": {
    status: 422,
    retryable: false,
    title: "The action needs a colour",
    sentence: "“{action}” needs a colour: #ff8800, 255,136,0 or a name like amber. Nothing was sent. {choices}",
  },
  "value-not-taken": {
    status: 422,
    retryable: false,
    title: "The action takes no number",
    sentence: "“{action}” of a {kind} takes no value. Send it without one. Nothing was sent.",
  },
  "time-not-taken": {
    status: 422,
    retryable: false,
    title: "The action takes no time",
    sentence: "“{action}” of {target} cannot be limited in time. Only what goes on can go off again. Nothing was sent.",
  },
  "nothing-to-start-from": {
    status: 409,
    retryable: true,
    title: "The state is unknown",
    sentence:
      "The state of {target} is unknown, so it cannot be changed relative to it. Request a state or a level. Nothing was sent.",
  },
  interlocked: {
    status: 409,
    retryable: true,
    title: "An interlock forbids it",
    sentence: "{target} may not be on together with {partner}, which is not seen to be off. Nothing was sent.",
  },
  "pulse-open": {
    status: 409,
    retryable: true,
    title: "A pulse is open already",
    sentence: "A pulse for {target} is still open, and a second one could undo it. Nothing was sent.",
  },
  "cannot-hold": {
    status: 422,
    retryable: false,
    title: "The device cannot end a hold by itself",
    sentence:
      "{target} is hold-to-run, but its device does not time itself. If the link broke, it would not stop. Nothing was sent.",
  },
  "cannot-read": {
    status: 422,
    retryable: false,
    title: "The device has no state query",
    sentence: "The profile “{profile}” of {target} has no topic for state queries (topics.ask). Nothing was sent.",
  },
  "time-out-of-range": {
    status: 422,
    retryable: false,
    title: "The time is too short or too long",
    sentence: "A time may be from 0.2 s to 24 h, not {seconds} s. Nothing was sent.",
  },
  "state-unknown": {
    status: 409,
    retryable: true,
    title: "The state is unknown",
    sentence:
      "Each impulse changes {target} to the other state, and its state is unknown. Nothing was sent. Wait until the {device} reports, switch it once by hand, or check the channel that measures it.",
  },
  midway: {
    status: 409,
    retryable: true,
    title: "It stands between its ends",
    sentence:
      "{target} stands between open and shut, or moves. One impulse more may as well reverse it. Nothing was sent. Wait until it has arrived, or move it to one end by hand.",
  },
  "device-absent": {
    status: 409,
    retryable: true,
    title: "The device is offline",
    sentence: "The {device} is offline, so {target} takes no requests until it is back. Nothing was sent.",
  },
  "locked-out": {
    status: 423,
    retryable: false,
    title: "The channel is locked out",
    sentence: "{holder} has locked out {target}{because}. Nothing was sent. Ask {holder} to release it.",
  },
  "lockout-unconfirmed": {
    status: 409,
    retryable: false,
    title: "You have locked out this channel",
    sentence:
      "Nothing was published. You have locked out {target}. Check that nobody works at the panel, then publish it again and confirm.",
  },
  "already-locked-out": {
    status: 409,
    retryable: false,
    title: "It has a lock-out already",
    sentence: "{holder} has locked out “{target}” already. Nothing was changed.",
  },
  "release-needs-reason": {
    status: 422,
    retryable: false,
    title: "A reason is needed",
    sentence: "{holder} locked it out. Make sure that nobody works on the panel, and give the reason for the release.",
  },
  "exists-already": {
    status: 409,
    retryable: false,
    title: "It exists already",
    sentence: "{what} exists already. Nothing was changed.",
  },
  "too-many-streams": {
    status: 429,
    retryable: true,
    title: "Too many are open already",
    sentence: "You have {most} {what} open, which is the most that one member may. Close one and try again.",
  },
  "identifier-retired": {
    status: 409,
    retryable: false,
    title: "The identifier was used before",
    sentence:
      "An inlet called “{slug}” was deleted. Its identifier is not used again, so that callers and history do not mix the two. Choose another.",
  },
  "changed-meanwhile": {
    status: 412,
    retryable: false,
    title: "Somebody else changed it meanwhile",
    sentence:
      "{what} has version {version} now, and your change is based on an earlier one. Nothing was changed. Load it again, then repeat your change.",
  },
  "site-wrong": {
    status: 422,
    retryable: false,
    title: "The description has errors",
    sentence: "Nothing was changed. {why}",
  },
  "in-use": {
    status: 409,
    retryable: true,
    title: "It is in use just now",
    sentence: "{what}: {why}. Nothing was changed. Wait until it has ended or cancel it, then try again.",
  },
  "depended-on": {
    status: 409,
    retryable: false,
    title: "Something depends on it",
    sentence: "{what} is used by {by}. Nothing was deleted. Delete those first, or change them to use something else.",
  },
  "last-owner": {
    status: 409,
    retryable: false,
    title: "A team needs an owner",
    sentence: "The team needs at least one owner. Make another member owner first.",
  },
  "not-open": {
    status: 409,
    retryable: false,
    title: "It has ended already",
    sentence: "Nothing of this request is open, so there is nothing to cancel.",
  },
  "repeat-key-reused": {
    status: 422,
    retryable: false,
    title: "This Idempotency-Key was used for another call",
    sentence:
      "The Idempotency-Key was used with another body before, for request {request}. Nothing was sent. Use a new key for a new call.",
  },
  "too-many-attempts": {
    status: 429,
    retryable: true,
    title: "Too many attempts",
    sentence: "Too many attempts from this address. Wait {seconds} s and try again.",
  },
  "rate-exceeded": {
    status: 429,
    retryable: true,
    title: "The inlet receives too many arrivals",
    sentence: "{inlet} accepts {perMinute} arrivals a minute. Nothing was sent. Repeat it after {seconds} s.",
  },
  "inlet-paused": {
    status: 503,
    retryable: true,
    title: "The inlet is paused",
    sentence: "{inlet} is paused and rejects every arrival. An engineer of the site can resume it.",
  },
  "broker-admin-failed": {
    status: 502,
    retryable: true,
    title: "The broker rejected the change",
    sentence: "The broker could not change its users: {why}",
  },
  "service-busy": {
    status: 503,
    retryable: true,
    title: "The service is busy",
    sentence: "{why}. Nothing was sent. Repeat the call after the time in Retry-After.",
  },
  "database-unavailable": {
    status: 503,
    retryable: true,
    title: "The database cannot be written",
    sentence:
      "The database does not answer, so it is unknown whether the request was stored. Look for request {request} before you repeat it.",
  },
  "holder-lost": {
    status: 503,
    retryable: true,
    title: "The leading instance has stopped",
    sentence:
      "The leading instance stopped before it answered, so it is unknown whether the request was stored. Look for it in the request log before you repeat it, or repeat it with the same Idempotency-Key.",
  },
  internal: {
    status: 500,
    retryable: false,
    title: "The service failed",
    sentence: "An internal error occurred. Look for {reference} in the service's log.",
  },
} as const satisfies Record<string, ErrorKind>;

export type ErrorCode = keyof typeof errorCatalogue;
