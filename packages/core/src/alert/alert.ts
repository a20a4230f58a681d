/**
 * What a person should look at, one alert for each root cause. Made anew from what is known, so it resolves itself when the cause
 * is fixed. Pure: the service keeps who it is assigned to, what was noted, and for how long it is snoozed.
 */
import { deviceAlerts } from "./device-alerts.ts";
import { grouped } from "./grouped.ts";
import { guessAlerts } from "./guess-alerts.ts";
import { inletAlerts, keyAlerts } from "./inlet-alerts.ts";
import type { AlertInput, ChannelInput } from "./input.ts";
import { instanceAlerts } from "./instance-alerts.ts";
import { ALERT_KINDS, type Alert } from "./kind.ts";

/** What alerts are made from, device by device. */
export interface AlertSources extends Omit<AlertInput, "channels"> {
  /** The channels of each device; read one after the other, as alerts are made. */
  readonly devices: Iterable<readonly ChannelInput[]>;
}

/** The gravest first. */
export function alertsOf({ channels, ...others }: AlertInput): Alert[] {
  const devices = grouped(channels, ({ channel }) => channel.device.address).values();
  const steps = alertSteps({ ...others, devices });
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}

/** The same in many small steps, for whoever has others to serve meanwhile. */
export function* alertSteps({
  now,
  devices,
  inlets,
  keys,
  instances,
  guesses,
}: AlertSources): Generator<void, Alert[]> {
  const ofDevices: Alert[] = [];
  for (const channels of devices) {
    for (const alert of deviceAlerts(channels, now)) ofDevices.push(alert);
    yield;
  }
  return [
    ...ofDevices,
    ...inlets.flatMap((inlet) => inletAlerts(inlet, now)),
    ...keys.flatMap((key) => keyAlerts(key, keys, now)),
    ...instanceAlerts(instances, now),
    ...guessAlerts(guesses, inlets),
  ].sort((one, other) => rank(one) - rank(other) || one.since - other.since);
}

/**
 * The database cannot be read or written: an alert that no table can keep.
 *
 * @param trouble what is wrong and what to do
 * @param since ms since 1970
 */
export function databaseAlert(trouble: string, since: number): Alert {
  return {
    kind: "database-unavailable",
    subject: "database",
    site: null,
    title: "The database cannot be used",
    text: `${trouble} New requests are answered with 503. What devices report is kept and stored as soon as the database takes it.`,
    mark: String(since),
    since,
  };
}

function rank({ kind }: Alert): number {
  return ALERT_KINDS.indexOf(kind);
}
