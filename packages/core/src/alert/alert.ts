/**
 * What a person should look at, one matter for each root cause. Made anew from what is known, so it goes by itself when it
 * is cured. Pure: the service keeps who took it, what was noted, and for how long it is muted.
 */
import type { Value } from "../channel/value.ts";
import type { Reason } from "../delivery/command.ts";
import type { End } from "../delivery/stage.ts";
import { formatDuration } from "../report/duration.ts";
import type { ChannelEntry } from "../site/entry.ts";
import type { Agreement } from "../state/agreement.ts";
import { PATTERN_WORDS, type PresencePattern } from "../state/presence-pattern.ts";
import type { StateAge } from "../state/state-age.ts";

export const ALERT_KINDS = [
  "database-unavailable",
  "device-gone",
  "device-unsteady",
  "measured-otherwise",
  "stuck-between",
  "failing",
  "drifting",
  "reports-stopped",
  "command-topic",
  "inlet-circling",
  "inlet-down",
  "inlet-flooded",
  "inlet-unmatched",
  "inlet-quiet",
  "key-expiring",
] as const;
export type AlertKind = (typeof ALERT_KINDS)[number];

export interface Alert {
  readonly kind: AlertKind;
  /** What it is about: an address, an inlet's slug, a key's number. Kind and subject name it for good. */
  readonly subject: string;
  /** Whose it is; null: the whole team's. */
  readonly site: string | null;
  readonly title: string;
  /** What it means, and what to do. */
  readonly text: string;
  /** Changes when it happens anew: one that was closed is shown again then. */
  readonly mark: string;
  /** Since when, as far as it tells, ms since 1970. */
  readonly since: number;
}

/** What is known of one channel. */
export interface ChannelInput {
  readonly channel: ChannelEntry;
  readonly present: { readonly up: boolean; readonly since: number } | null;
  readonly agreement: Agreement;
  /** What it is and was told, in words; for drift. */
  readonly is: string;
  readonly told: string;
  /** Its state as a value; null: unknown. */
  readonly observed: Value | null;
  readonly observedAt: number;
  readonly lockedOut: boolean;
  /** Its newest command that has ended. */
  readonly last: {
    readonly id: string;
    readonly end: End | null;
    readonly reason: Reason | null;
    readonly at: number;
    readonly headline: string;
    readonly text: string;
  } | null;
  readonly concerns: readonly { readonly kind: string; readonly text: string; readonly since: number }[];
  /** What its device's comings and goings tell; null: nothing conspicuous. */
  readonly pattern: PresencePattern | null;
  readonly age: StateAge;
  /** What its device says of its own output, in words, where something else sees the channel otherwise; null: they agree. */
  readonly claimed: { readonly text: string; readonly since: number } | null;
}

export interface InletInput {
  readonly slug: string;
  readonly name: string;
  readonly site: string | null;
  readonly paused: boolean;
  readonly up: boolean | null;
  readonly trouble: string | null;
  /** When arrivals of the last hour were not understood, ms since 1970, oldest first. */
  readonly unmatched: readonly number[];
  /** When it last refused what went round in circles, and what was beyond its limit, ms since 1970; null: not lately. */
  readonly circledAt: number | null;
  readonly floodedAt: number | null;
  /** ms since 1970; the start of the service if none came since. */
  readonly lastAt: number;
  /** Told when it is quiet for longer, ms; null: it may be quiet. */
  readonly quietAfterMs: number | null;
}

export interface KeyInput {
  readonly id: number;
  readonly name: string;
  readonly holder: string;
  /** ms since 1970; null: it does not expire. */
  readonly expiresAt: number | null;
  readonly site: string | null;
}

export interface AlertInput {
  readonly now: number;
  readonly channels: readonly ChannelInput[];
  readonly inlets: readonly InletInput[];
  readonly keys: readonly KeyInput[];
}

/** How long a device may be gone before somebody should look, ms: links flap. */
const GONE_MS = 30_000;
const SOON_MS = 14 * 86_400_000;
const DAY_MS = 86_400_000;
const HOUR_MS = 3_600_000;
/** So many that were not understood within an hour are no slip of a finger. */
const MANY_UNMATCHED = 3;

const BAD_ENDS: readonly (End | null)[] = ["failed", "unanswered", "expired"];

/** The gravest first. */
export function alertsOf({ now, channels, inlets, keys }: AlertInput): Alert[] {
  const byDevice = grouped(channels, ({ channel }) => channel.device.address);
  return [
    ...[...byDevice.values()].flatMap((all) => deviceAlerts(all, now)),
    ...inlets.flatMap((inlet) => inletAlerts(inlet, now)),
    ...keys.flatMap((key) => keyAlerts(key, now)),
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

/** A device that is gone explains why its channels fail and drift: then only that is told. */
function deviceAlerts(all: readonly ChannelInput[], now: number): Alert[] {
  const [first] = all;
  if (!first) return [];
  const { channel, present, pattern } = first;
  const warned = [
    ...all.flatMap(concernAlerts),
    ...all.flatMap((one) => [...claimAlerts(one, now), ...stuckMatters(one, now)]),
  ];
  if (pattern !== null) warned.unshift(unsteadyMatter(channel, pattern, present?.since ?? now));
  if (present && !present.up && now - present.since >= GONE_MS)
    return [offlineAlert(channel, present.since, all.length), ...warned];
  warned.push(...silentMatters(all));
  const failing = all.filter(({ last, lockedOut }) => last !== null && BAD_ENDS.includes(last.end) && !lockedOut);
  const drifting = all.filter((one) => one.agreement === "drift" && !failing.includes(one));
  return [...failingAlerts(failing), ...drifting.map(driftAlert), ...warned];
}

function offlineAlert({ device, site }: ChannelEntry, since: number, channels: number): Alert {
  const so = channels === 1 ? "its channel" : `its ${channels} channels`;
  return {
    kind: "device-gone",
    subject: device.address,
    site: site.slug,
    title: `The ${device.name} is gone`,
    text: `It is off the broker, so ${so} cannot be switched or seen. Check its power and its link.`,
    mark: String(since),
    since,
  };
}

/** One alert as long as it goes on, however often it goes and comes. */
function unsteadyMatter({ device, site }: ChannelEntry, pattern: PresencePattern, since: number): Alert {
  const { text, tryThis } = PATTERN_WORDS[pattern];
  return {
    kind: "device-unsteady",
    subject: device.address,
    site: site.slug,
    title: `The ${device.name} goes offline again and again`,
    text: `${text} ${tryThis}`,
    mark: pattern,
    since,
  };
}

/** The device says one thing, and what sees the channel another, for longer than either needs to settle. */
function claimAlerts({ channel, claimed, is, observedAt }: ChannelInput, now: number): Alert[] {
  if (claimed === null) return [];
  const since = Math.max(claimed.since, observedAt);
  if (now - since < channel.policy.settleMs) return [];
  return [
    {
      kind: "measured-otherwise",
      subject: channel.address,
      site: channel.site.slug,
      title: `${nameOf(channel)}: the device says ${claimed.text}, and it is measured ${is}`,
      text: `The ${channel.device.name} reports ${claimed.text}, but what sees the channel says ${is}. Look at the lamp or load itself, its fuse and its wiring, then at the meter or contact.`,
      mark: String(since),
      since,
    },
  ];
}

/** How long a gate or blind may be between its end contacts, ms, where its description does not say. */
const MOVES_WITHIN_MS = 60_000;

function stuckMatters({ channel, observed, observedAt, age }: ChannelInput, now: number): Alert[] {
  const { seenBy } = channel;
  if (observed !== "between" || age.stale !== null || !seenBy || !("open" in seenBy)) return [];
  const withinMs = seenBy.movesWithinMs ?? MOVES_WITHIN_MS;
  if (now - observedAt < withinMs) return [];
  return [
    {
      kind: "stuck-between",
      subject: channel.address,
      site: channel.site.slug,
      title: `${nameOf(channel)} took too long and is between open and shut`,
      text: `It left one end more than ${formatDuration(withinMs)} ago and has not reached the other. Look whether something is in its way, then at its end contacts.`,
      mark: String(observedAt),
      since: observedAt,
    },
  ];
}

/** A device that is online and reports regularly has stopped doing so: one alert for all its channels. */
function silentMatters(all: readonly ChannelInput[]): Alert[] {
  const silent = all.filter(({ age }) => age.stale === "silent");
  const [first] = silent;
  if (!first) return [];
  const { device, site, policy } = first.channel;
  const since = Math.min(...silent.map(({ age, observedAt }) => age.asOf ?? observedAt));
  return [
    {
      kind: "reports-stopped",
      subject: device.address,
      site: site.slug,
      title: `The ${device.name} has stopped reporting`,
      text: `It is expected to report every ${formatDuration(policy.reportsEveryMs ?? 0)}, and ${silent.length === all.length ? "none of its channels has" : `${silent.length} of its channels have not`} for three times as long. What is shown of them is old. Restart the board, and look at its report timer.`,
      mark: String(since),
      since,
    },
  ];
}

/** Several channels of one device that stopped for the same reason have one cause. */
function failingAlerts(failing: readonly ChannelInput[]): Alert[] {
  const byReason = grouped(failing, ({ last }) => last?.reason ?? "");
  return [...byReason.values()].flatMap((same) => {
    const newest = same.reduce((one, other) => ((other.last?.at ?? 0) > (one.last?.at ?? 0) ? other : one));
    const { channel, last } = newest;
    if (!last) return [];
    const names = same.map((one) => nameOf(one.channel)).sort();
    const together = same.length > 1;
    return {
      kind: "failing",
      subject: together ? `${channel.device.address}: ${last.reason}` : channel.address,
      site: channel.site.slug,
      title: together ? `${names.join(" and ")} do not get there` : `${nameOf(channel)} does not get there`,
      text: `${last.headline} ${last.text}`,
      mark: last.id,
      since: Math.min(...same.map((one) => one.last?.at ?? last.at)),
    };
  });
}

function driftAlert({ channel, is, told, observedAt }: ChannelInput): Alert {
  return {
    kind: "drifting",
    subject: channel.address,
    site: channel.site.slug,
    title: `${nameOf(channel)} is not as told`,
    text: `It is ${is}, and was told ${told}. Look at who or what changed it, or send the command again.`,
    mark: String(observedAt),
    since: observedAt,
  };
}

function concernAlerts({ channel, concerns }: ChannelInput): Alert[] {
  return concerns.map(({ kind, text, since }) => ({
    kind: "command-topic",
    subject: `${channel.address}: ${kind}`,
    site: channel.site.slug,
    title:
      kind === "ends-contradict"
        ? `${nameOf(channel)}: both end contacts are made`
        : `${nameOf(channel)}: its command topic is not ours alone`,
    text,
    mark: String(since),
    since,
  }));
}

function inletAlerts(inlet: InletInput, now: number): Alert[] {
  const { slug, name, site, paused, up, trouble, unmatched, lastAt, quietAfterMs, circledAt, floodedAt } = inlet;
  if (paused) return [];
  const matter = (kind: AlertKind, title: string, text: string, mark: string, since: number): Alert => {
    return { kind, subject: slug, site, title, text, mark, since };
  };
  const matters: Alert[] = [];
  if (up === false)
    matters.push(
      matter("inlet-down", `${name} is not there for callers`, trouble ?? "It is down.", trouble ?? "", now),
    );
  if (circledAt !== null && now - circledAt < HOUR_MS) {
    const text =
      "The same trace came in again and again: something answers each command with another request. Find who republishes.";
    matters.push(matter("inlet-circling", `${name} goes round in circles`, text, String(circledAt), circledAt));
  }
  if (floodedAt !== null && now - floodedAt < HOUR_MS) {
    const text = "What was beyond its limit was refused. Look at who calls so often; raise the limit if that is right.";
    matters.push(matter("inlet-flooded", `${name} is called too often`, text, String(floodedAt), floodedAt));
  }
  if (unmatched.length >= MANY_UNMATCHED) {
    const text = `${unmatched.length} arrivals within an hour. Look at what was said, rehearse it, and add a route or a synonym.`;
    matters.push(
      matter(
        "inlet-unmatched",
        `${name} does not understand its senders`,
        text,
        String(unmatched.at(-1)),
        unmatched[0] ?? now,
      ),
    );
  }
  if (quietAfterMs !== null && now - lastAt > quietAfterMs) {
    const text = "Nothing has come in for longer than it should. Call it yourself; then look at whoever calls it.";
    matters.push(matter("inlet-quiet", `${name} has gone quiet`, text, String(lastAt), lastAt + quietAfterMs));
  }
  return matters;
}

function keyAlerts({ id, name, holder, expiresAt, site }: KeyInput, now: number): Alert[] {
  if (expiresAt === null || expiresAt - now > SOON_MS) return [];
  const days = Math.max(0, Math.floor((expiresAt - now) / DAY_MS));
  const left = days === 0 ? "today" : days === 1 ? "tomorrow" : `in ${days} days`;
  return [
    {
      kind: "key-expiring",
      subject: String(id),
      site,
      title: `The key “${name}” of ${holder} expires ${left}`,
      text: "Make a new one of the same name with an overlap, and give it to whoever uses it.",
      mark: String(expiresAt),
      since: now,
    },
  ];
}

function grouped<One>(all: readonly One[], keyOf: (one: One) => string): Map<string, One[]> {
  const groups = new Map<string, One[]>();
  for (const one of all) groups.set(keyOf(one), [...(groups.get(keyOf(one)) ?? []), one]);
  return groups;
}

function nameOf({ name, room }: ChannelEntry): string {
  return `${name}, ${room.name}`;
}
