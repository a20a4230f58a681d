/** From an intent to what it asks of each channel, or the reason why it is refused. Pure. */
import { colourNames, parseColour } from "../channel/colour.ts";
import { channelKinds, kindOf, kindOfChannel } from "../channel/index.ts";
import { type Action, type ChannelKind, clampLevel, countsNumbers, stepOf } from "../channel/kind.ts";
import { MOST_COLOURS, parsePattern } from "../channel/lamps.ts";
import { isOn, type Value } from "../channel/value.ts";
import { hasReached } from "../delivery/stage.ts";
import { type ErrorCode, type ErrorFacts, RelayError } from "../errors/relay-error.ts";
import type { ChannelId } from "../id.ts";
import type { Bundle } from "../site/bundle.ts";
import type { ChannelEntry } from "../site/entry.ts";
import { nearestNames, resolveName } from "../site/name.ts";
import type { Snapshot } from "../site/snapshot.ts";
import { editDistance } from "../site/spelling.ts";
import type { Asker, Intent } from "./intent.ts";
import { askedTime } from "./limits.ts";

/** What is wished of one channel. All but `to` depend on what the channel is when its turn comes. */
export type Wish =
  | { readonly asks: "to"; readonly to: Value }
  | { readonly asks: "read" }
  | { readonly asks: "by"; readonly by: number }
  | { readonly asks: "toggle" }
  | { readonly asks: "back" };

export interface Part {
  readonly channel: ChannelEntry;
  readonly wish: Wish;
  /** Overtakes whatever is in flight, and is tried until it is proven. */
  readonly urgent: boolean;
  /** Asked for this long, ms; null: for good. */
  readonly forMs: number | null;
}

export type Guarded =
  | { readonly parts: readonly Part[]; readonly bundle: Bundle | null; readonly refusal: null }
  /** Something of that name was found, at these sites (their slug), and may not be asked this. */
  | { readonly parts: null; readonly refusal: RelayError; readonly outcome: "refused"; readonly site: string }
  /** Nothing of that name was found. */
  | { readonly parts: null; readonly refusal: RelayError; readonly outcome: "not-understood"; readonly site: null };

/** A scene takes one action only: it says itself what each of its channels becomes. */
export const RECALL = "recall";

/** Resolves the target and checks that everything in it may be asked this. */
export function guard(snapshot: Snapshot, intent: Intent, asker: Asker): Guarded {
  if (intent.among) return guardMany(snapshot, intent.among, intent, asker);
  const resolution = resolveName(snapshot, intent.target, asker.sites);
  if ("wildcard" in resolution) {
    return notUnderstood("wildcard-in-name", { target: intent.target, character: resolution.wildcard });
  }
  if ("unknown" in resolution) {
    const nearest = nearestNames(snapshot, intent.target, asker.sites);
    return notUnderstood("unknown-channel", { target: intent.target, nearest });
  }
  if ("ambiguous" in resolution) {
    const nearest = resolution.ambiguous.slice(0, 10);
    return notUnderstood("ambiguous-name", { target: intent.target, nearest });
  }
  if ("found" in resolution) {
    const { found } = resolution;
    return guarded(found.site, null, () => [partOf(found, intent)]);
  }
  const { bundle } = resolution;
  return guarded(bundle.site, bundle, () => partsOf(snapshot, bundle, intent));
}

function guardMany(snapshot: Snapshot, among: readonly ChannelId[], intent: Intent, { sites }: Asker): Guarded {
  const channels = among.flatMap((id) => snapshot.byId.get(id) ?? []);
  const reachable = channels.filter(({ site }) => sites === null || sites.includes(site.slug));
  const [first] = reachable;
  if (!first) return notUnderstood("unknown-channel", { target: intent.target, nearest: [] });
  const members = reachable.map(({ id }) => ({ channel: id, action: null, value: null }));
  const name = intent.target;
  const bundle: Bundle = { kind: "group", slug: "", name, address: name, site: first.site, members };
  return guarded(first.site, bundle, () => reachable.map((channel) => partOf(channel, intent)));
}

/** @param wished throws a RelayError when something may not be asked this */
function guarded({ slug }: ChannelEntry["site"], bundle: Bundle | null, wished: () => Part[]): Guarded {
  try {
    return { parts: wished(), bundle, refusal: null };
  } catch (error) {
    if (error instanceof RelayError) return { parts: null, refusal: error, outcome: "refused", site: slug };
    throw error;
  }
}

function partsOf(snapshot: Snapshot, bundle: Bundle, intent: Intent): Part[] {
  const channels = bundle.members.flatMap((member) => {
    const channel = snapshot.byId.get(member.channel);
    return channel ? [{ ...member, channel }] : [];
  });
  if (bundle.kind === "group") return channels.map(({ channel }) => partOf(channel, intent));
  if (intent.action !== RECALL) {
    throw new RelayError("unknown-action", { action: intent.action, kind: "scene", nearest: [RECALL] });
  }
  if (intent.value !== null) throw new RelayError("value-not-taken", { action: intent.action, kind: "scene" });
  return channels.map(({ channel, action, value }) => partOf(channel, { ...intent, action: action ?? "on", value }));
}

/** The action that changes nothing: the device is asked to say what the channel is. */
export const READ_ACTION = "read";

/** Everything that a channel can be asked: what its kind takes, and to be read where its device can be asked. */
export function actionsOf({ kind, topics, drive }: Pick<ChannelEntry, "kind" | "topics" | "drive">): string[] {
  const all = Object.entries(kindOf(kind).actions).filter(([, action]) => isDrivable(drive, action));
  const actions = all.map(([name]) => name);
  return topics.ask === null ? actions : [...actions, READ_ACTION];
}

/** What changes to the other state by each impulse has two states, and nothing in between. */
function isDrivable(drive: ChannelEntry["drive"], action: Action): boolean {
  if (drive === "set") return true;
  return action.asks === "to" ? action.to !== "stop" : action.asks === "toggle" || action.asks === "back";
}

/** @throws RelayError when the channel cannot be asked this */
function partOf(channel: ChannelEntry, asked: Intent): Part {
  const intent = asked.forMs === null ? asked : { ...asked, forMs: askedTime(asked.forMs) };
  if (intent.action === READ_ACTION) return readingOf(channel, intent);
  const kind = channelKinds[channel.kind];
  const action = Object.hasOwn(kind.actions, intent.action)
    ? (kind.actions as Record<string, Action>)[intent.action]
    : undefined;
  if (!action || !isDrivable(channel.drive, action)) {
    throw new RelayError("unknown-action", { action: intent.action, kind: kind.name, nearest: actionsOf(channel) });
  }
  if (intent.until !== null && !hasReached(channel.policy.targetStage, intent.until)) {
    const { targetStage } = channel.policy;
    throw new RelayError("beyond-target-stage", { until: intent.until, targetStage, target: channel.address });
  }
  const wish = wishOf(channel, action, intent);
  return {
    channel,
    wish,
    urgent: action.asks === "to" && action.urgent === true,
    forMs: timeOf(channel, wish, intent),
  };
}

/** @throws RelayError cannot-read where its device cannot be asked what it is */
function readingOf(channel: ChannelEntry, { action, value, forMs }: Intent): Part {
  if (channel.topics.ask === null)
    throw new RelayError("cannot-read", { target: channel.address, profile: channel.profile.slug });
  if (value !== null) throw new RelayError("value-not-taken", { action, kind: channel.kind });
  if (forMs !== null) throw new RelayError("time-not-taken", { action, target: channel.address });
  return { channel, wish: { asks: "read" }, urgent: false, forMs: null };
}

function wishOf(channel: ChannelEntry, action: Action, { action: name, value }: Intent): Wish {
  const kind = kindOfChannel(channel);
  const facts = { action: name, kind: kind.name };
  if (action.asks === "colour") return { asks: "to", to: colourAsked(value, facts) };
  if (action.asks === "pattern") return { asks: "to", to: patternAsked(value, facts) };
  if (typeof value === "string")
    throw new RelayError("bad-request", {
      why: `“${name}” of a ${kind.name} takes no words, and “${value}” is no number`,
    });
  if (action.asks === "level") return { asks: "to", to: levelAsked(channel, kind, value, name) };
  if (action.asks === "step") return { asks: "by", by: action.sign * stepAsked(kind, value) };
  if (value !== null) throw new RelayError("value-not-taken", facts);
  return action.asks === "to" ? { asks: "to", to: action.to } : { asks: action.asks };
}

/** @throws RelayError value-needed */
function levelAsked({ unit }: ChannelEntry, kind: ChannelKind, value: number | null, action: string): number {
  const { least = 0, most = 0, ofChannel = false, unit: ofKind = "" } = kind.range ?? {};
  // Who says 70 to what takes 5 to 28 °C counts in another unit: 28 is not what is wanted.
  const isOutside = value !== null && ofChannel && (value < least || value > most);
  if (value !== null && kind.range && !isOutside) return clampLevel(kind, value);
  throw new RelayError("value-needed", { action, kind: kind.name, least, most, unit: unit ?? ofKind });
}

/** How far to step, in the channel's unit. */
function stepAsked(kind: ChannelKind, value: number | null): number {
  const least = kind.range?.ofChannel ? (kind.range.step ?? 1) : 1;
  const by = value === null ? stepOf(kind) : kind.range?.ofChannel ? value : Math.round(value);
  if (by >= least) return by;
  throw new RelayError("bad-request", { why: `How far to step is a number from ${least}, not ${value}` });
}

/** @throws RelayError colour-needed */
function colourAsked(value: Intent["value"], facts: ErrorFacts): Value {
  const colour = typeof value === "string" ? parseColour(value) : null;
  if (colour !== null) return colour;
  throw new RelayError("colour-needed", { ...facts, nearest: nearestColours(String(value ?? "")) });
}

/** @throws RelayError pattern-needed */
function patternAsked(value: Intent["value"], facts: ErrorFacts): Value {
  const pattern = typeof value === "string" ? parsePattern(value) : null;
  if (pattern !== null) return pattern;
  throw new RelayError("pattern-needed", { ...facts, most: MOST_COLOURS });
}

function nearestColours(text: string): string[] {
  const wanted = text.trim().toLowerCase();
  const distance = (name: string) => editDistance(name, wanted, 2);
  return colourNames.filter((name) => distance(name) <= 2).sort((one, other) => distance(one) - distance(other));
}

/** How long it may last, ms: what was asked, what the channel allows, or one press of a hold, whichever is shortest. */
function timeOf({ policy, address, kind }: ChannelEntry, wish: Wish, { forMs, action }: Intent): number | null {
  // A setpoint has nothing that it goes back to.
  const goesOff = countsNumbers(kindOf(kind)) || (wish.asks === "to" && !isOn(wish.to));
  if (forMs !== null && (goesOff || !kindOf(kind).repeatable))
    throw new RelayError("time-not-taken", { action, target: address });
  if (goesOff) return null;
  if (policy.holdForMs !== null && !policy.timesItself) throw new RelayError("cannot-hold", { target: address });
  const limits = [forMs, policy.autoOffMs, policy.holdForMs].filter((ms) => ms !== null);
  return limits.length === 0 ? null : Math.min(...limits);
}

function notUnderstood(code: ErrorCode, facts: ErrorFacts): Guarded {
  return { parts: null, refusal: new RelayError(code, facts), outcome: "not-understood", site: null };
}
