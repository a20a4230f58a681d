/** Alerts of a device: gone, unsteady, or whatever its channels need. */
import type { End } from "../delivery/stage.ts";
import type { ChannelEntry } from "../site/entry.ts";
import { PATTERN_WORDS, type PresencePattern } from "../state/presence-pattern.ts";
import { claimAlerts, concernAlerts, driftAlert, failingAlerts, silentAlerts, stuckAlerts } from "./channel-alerts.ts";
import type { ChannelInput } from "./input.ts";
import type { Alert } from "./kind.ts";

/** How long a device may be gone before somebody should look, ms: links flap. */
const GONE_MS = 30_000;

const BAD_ENDS: readonly (End | null)[] = ["failed", "unanswered", "expired"];

/** A device that is gone explains why its channels fail and drift: then only that is told. */
export function deviceAlerts(all: readonly ChannelInput[], now: number): Alert[] {
  const [first] = all;
  if (!first) return [];
  const { channel, online, pattern } = first;
  const warned = [
    ...all.flatMap(concernAlerts),
    ...all.flatMap((one) => [...claimAlerts(one, now), ...stuckAlerts(one, now)]),
  ];
  if (pattern !== null) warned.unshift(unsteadyAlert(channel, pattern, online?.since ?? now));
  if (online && !online.up && now - online.since >= GONE_MS)
    return [offlineAlert(channel, online.since, all.length), ...warned];
  warned.push(...silentAlerts(all));
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
    title: `The ${device.name} is offline`,
    text: `It is offline, so ${so} cannot be switched or seen. Check its power and its link.`,
    mark: String(since),
    since,
  };
}

/** One alert as long as it goes on, however often it goes and comes. */
function unsteadyAlert({ device, site }: ChannelEntry, pattern: PresencePattern, since: number): Alert {
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
