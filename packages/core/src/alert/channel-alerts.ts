/** Alerts of channels: what fails, drifts, contradicts itself or is written by others. */
import { formatDuration } from "../report/duration.ts";
import type { ChannelEntry } from "../site/entry.ts";
import { grouped } from "./grouped.ts";
import type { ChannelInput } from "./input.ts";
import type { Alert } from "./kind.ts";

/** The device says one thing, and what sees the channel another, for longer than either needs to settle. */
export function claimAlerts({ channel, claimed, is, observedAt }: ChannelInput, now: number): Alert[] {
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

export function stuckAlerts({ channel, observed, observedAt, age }: ChannelInput, now: number): Alert[] {
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
export function silentAlerts(all: readonly ChannelInput[]): Alert[] {
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
export function failingAlerts(failing: readonly ChannelInput[]): Alert[] {
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
      title: together ? `Commands to ${names.join(" and ")} fail` : `Commands to ${nameOf(channel)} fail`,
      text: `${last.headline} ${last.text}`,
      mark: last.id,
      since: Math.min(...same.map((one) => one.last?.at ?? last.at)),
    };
  });
}

export function driftAlert({ channel, is, told, observedAt }: ChannelInput): Alert {
  return {
    kind: "drifting",
    subject: channel.address,
    site: channel.site.slug,
    title: `${nameOf(channel)} is in drift`,
    text: `Its state is ${is}; commanded was ${told}. Find out who or what changed it, or send the command again.`,
    mark: String(observedAt),
    since: observedAt,
  };
}

const CONCERNS: Readonly<Record<string, string>> = {
  "ends-contradict": "both end contacts are made",
  "unreadable-report": "its report cannot be read",
};

export function concernAlerts({ channel, concerns }: ChannelInput): Alert[] {
  return concerns.map(({ kind, text, since }) => ({
    kind: kind === "unreadable-report" ? "report-unreadable" : "command-topic",
    subject: `${channel.address}: ${kind}`,
    site: channel.site.slug,
    title: `${nameOf(channel)}: ${CONCERNS[kind] ?? "its command topic is not ours alone"}`,
    text,
    mark: String(since),
    since,
  }));
}

function nameOf({ name, room }: ChannelEntry): string {
  return `${name}, ${room.name}`;
}
