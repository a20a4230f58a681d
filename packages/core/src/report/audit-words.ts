/** The audit log in sentences, and what a change changed. Pure. */

/** What is recorded, each with its part of a sentence after the actor's name. */
export const AUDIT_ACTIONS = {
  "alert changed": "changed the alert",
  "authenticator app added": "added an authenticator app to the account",
  "authenticator app removed": "removed the authenticator app of the account",
  "device user created": "created a broker user for the device",
  "device users revoked": "revoked all broker users of the device",
  "inlet changed": "changed the inlet",
  "inlet deleted": "deleted the inlet",
  "inlet secret created": "created a signing secret for the inlet",
  "test request sent": "sent a test request to the inlet",
  "test request published": "published a test request to",
  "installation imported": "imported an installation from",
  "attempts slowed down": "was slowed down by too many wrong passwords or codes at the call",
  "keys slowed down": "was slowed down by too many wrong keys at the inlet",
  "PINs slowed down": "was slowed down by too many wrong PINs at the inlet",
  "rate limit exceeded": "was refused by the rate limit of the inlet",
  "stream refused": "was refused one more live view at",
  "sign-in slowed down": "was slowed down by too many attempts to sign in as",
  "recent sign-in required": "was asked to sign in again for the call",
  "key created": "created the key",
  "key revoked": "revoked the key",
  "link created": "created a link of the inlet",
  "link revoked": "revoked a link of the inlet",
  "member added": "added the member",
  "member invited": "invited the member",
  "member removed": "removed the member",
  "notification changed": "changed the notification",
  "notification deleted": "deleted the notification",
  "notification secret created": "created a signing secret for the notification",
  "passkey added": "added a passkey to the account",
  "passkey deleted": "deleted a passkey of the account",
  "password changed": "changed the password of",
  "password reset link created": "created a password reset link for",
  "password reset": "reset the password of",
  "profile changed": "changed the profile",
  "profile deleted": "deleted the profile",
  "published by hand": "published by hand to",
  "owner added": "set up this installation as its owner",
  "owner reset": "gave a new password to the owner",
  "roles changed": "changed the roles of",
  "lead handed over": "handed the lead over to",
  "leader of a shard chosen": "chose the leader of",
  "number of shards changed": "changed the number of shards of",
  "site moved to a shard": "changed the shard of the site",
  "team rules changed": "changed the rules of",
  "second factor removed": "removed the second factor of",
  "session ended": "ended a session of",
  "signed in": "signed in as",
  "signed out": "signed out as",
  "site changed": "changed the site",
  "site deleted": "deleted the site",
  // What did not happen.
  "refused by right": "was refused the call",
  "sign-in failed": "failed to sign in as",
  "second factor failed": "gave a wrong second factor as",
  "passkey failed": "failed to sign in with a passkey as",
  "password asked again: wrong": "gave a wrong password again as",
  "password reset failed": "failed to reset a password with",
  "set-up failed": "failed to set up this installation with",
} as const;

export type AuditAction = keyof typeof AUDIT_ACTIONS;

/**
 * What somebody did, without the object that it was done to.
 *
 * @param action as it was recorded; one that is not known any more is told as it stands
 * @example auditWords("inlet changed") // → "changed the inlet"
 */
export function auditWords(action: string): string {
  return Object.hasOwn(AUDIT_ACTIONS, action) ? AUDIT_ACTIONS[action as AuditAction] : `${action}:`;
}

/** One thing that a change changed. */
export interface AuditChange {
  /** Where: `routes.2.do.phrase`; empty: the whole. */
  readonly place: string;
  /** null: there was nothing, or there is nothing any more. */
  readonly from: string | null;
  readonly to: string | null;
}

/** More than this nobody reads. */
const MOST_CHANGES = 50;

/**
 * What differs between two records, place by place.
 *
 * @example auditChanges({ paused: true }, { paused: false }) // → [{ place: "paused", from: "true", to: "false" }]
 */
export function auditChanges(before: unknown, after: unknown): AuditChange[] {
  const [from, to] = [placesOf(before), placesOf(after)];
  const places = [...new Set([...from.keys(), ...to.keys()])];
  return places
    .map((place) => ({ place, from: from.get(place) ?? null, to: to.get(place) ?? null }))
    .filter((change) => change.from !== change.to)
    .slice(0, MOST_CHANGES);
}

/** Lists count from 1, as people do. */
function placesOf(value: unknown, place = "", found = new Map<string, string>()): Map<string, string> {
  if (value === null || value === undefined) return found;
  if (typeof value !== "object") return found.set(place, String(value));
  const entries = Array.isArray(value)
    ? value.map((one, index) => [String(index + 1), one] as const)
    : Object.entries(value);
  for (const [name, one] of entries) placesOf(one, place === "" ? name : `${place}.${name}`, found);
  return found;
}
