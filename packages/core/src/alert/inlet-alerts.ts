/** Alerts of inlets, and of keys that end soon. */
import { DAY_MS, HOUR_MS } from "../time.ts";
import type { InletInput, KeyInput } from "./input.ts";
import type { Alert, AlertKind } from "./kind.ts";

const SOON_MS = 14 * 86_400_000;
/** So many that were not understood within an hour are no slip of a finger. */
const MANY_NOT_UNDERSTOOD = 3;

export function inletAlerts(inlet: InletInput, now: number): Alert[] {
  const {
    slug,
    name,
    site,
    paused,
    up,
    trouble,
    notUnderstood,
    lastAt,
    quietAfterMs,
    circledAt,
    floodedAt,
    isOpenToAnyone,
    caughtTwice,
  } = inlet;
  if (paused) return [];
  const alert = (kind: AlertKind, title: string, text: string, mark: string, since: number): Alert => {
    return { kind, subject: slug, site, title, text, mark, since };
  };
  const alerts: Alert[] = [];
  if (up === false)
    alerts.push(alert("inlet-down", `${name} cannot be reached`, trouble ?? "It is down.", trouble ?? "", now));
  if (isOpenToAnyone) {
    const text = "Any sender in any room may ask there. Name rooms or senders in the inlet.";
    alerts.push(alert("inlet-open-to-anyone", `${name} is open to anyone`, text, "open", now));
  }
  if (caughtTwice !== null) {
    const text = `${caughtTwice} Both send commands. Change one of the routes.`;
    alerts.push(alert("inlet-caught-twice", `${name} catches the same as another inlet`, text, caughtTwice, now));
  }
  if (circledAt !== null && now - circledAt < HOUR_MS) {
    const text =
      "The same trace arrived several times. Something makes a new request from each command. Find what republishes the messages.";
    alerts.push(alert("inlet-circling", `${name} is in a loop`, text, String(circledAt), circledAt));
  }
  if (floodedAt !== null && now - floodedAt < HOUR_MS) {
    const text = "Arrivals beyond the limit were rejected. Check the caller. If its rate is right, raise perMinute.";
    alerts.push(alert("inlet-flooded", `${name} exceeds its rate limit`, text, String(floodedAt), floodedAt));
  }
  if (notUnderstood.length >= MANY_NOT_UNDERSTOOD) {
    const text = `${notUnderstood.length} arrivals within an hour. Read what was sent, rehearse it, and add a route or a synonym.`;
    alerts.push(
      alert(
        "inlet-not-understood",
        `${name} does not understand its senders`,
        text,
        String(notUnderstood.at(-1)),
        notUnderstood[0] ?? now,
      ),
    );
  }
  if (quietAfterMs !== null && now - lastAt > quietAfterMs) {
    const text = "No arrival for longer than quietAfterHours. Call the inlet yourself, then check its caller.";
    alerts.push(alert("inlet-quiet", `${name} receives nothing`, text, String(lastAt), lastAt + quietAfterMs));
  }
  return alerts;
}

const lasts = ({ expiresAt }: KeyInput): number => expiresAt ?? Number.POSITIVE_INFINITY;

/** @param keys all that are valid: one that a newer key of its name replaces may expire, for that is what somebody chose */
export function keyAlerts(key: KeyInput, keys: readonly KeyInput[], now: number): Alert[] {
  const { id, name, holder, expiresAt, site } = key;
  if (expiresAt === null || expiresAt - now > SOON_MS) return [];
  const isReplaced = keys.some(
    (other) => other.id > id && other.name === name && other.holder === holder && lasts(other) > expiresAt,
  );
  if (isReplaced) return [];
  const days = Math.max(0, Math.floor((expiresAt - now) / DAY_MS));
  const left = days === 0 ? "today" : days === 1 ? "tomorrow" : `in ${days} days`;
  return [
    {
      kind: "key-expiring",
      subject: String(id),
      site,
      title: `The key “${name}” of ${holder} expires ${left}`,
      text: "Create a new key of the same name with an overlap, and give it to its user.",
      mark: String(expiresAt),
      since: now,
    },
  ];
}
