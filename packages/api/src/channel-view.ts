/** Channels, sites and the service itself: what was told, what is. Times as in `request-view.ts`. */
import type { Agreement, Cause, DevicePresence, End, KindName, RequesterKind, StaleWhy, Value } from "@bold-relay/core";
import type { CommandView } from "./request-view.ts";

/** A fact about a channel and since when. */
export interface CommandedView {
  value: Value;
  /** As people say it: "35 %". */
  text: string;
  commandId: string;
  requestId: string;
  at: string;
  requester: RequesterKind;
  asker: string;
  inlet: string;
}

export interface ObservedView {
  value: Value;
  text: string;
  /** Whether it is made, lit or moving. */
  on: boolean;
  cause: Cause;
  commandId: string | null;
  /** Since when it is so, as far as we know. */
  at: string;
  /** When it was last heard to be so; null: nobody knows. */
  asOf: string | null;
  /** Why it is not known to be so now; null: it is. */
  stale: StaleWhy | null;
  /** Told by other channels, not by its own device. */
  measured: boolean;
}

/** One channel: what it was told, what it is. */
export interface ChannelView {
  address: string;
  number: number;
  name: string;
  kind: KindName;
  actions: string[];
  /** The numbers that it takes, in this unit; null: it takes none. */
  range: { least: number; most: number; step: number; unit: string } | null;
  /** It runs by being held: how long each asking lasts, ms; null: it does not. */
  holdForMs: number | null;
  room: { slug: string; name: string };
  /** `presenceSince`: since when it is online or offline; null: neither is known. */
  device: { address: string; name: string; presence: DevicePresence; presenceSince: string | null };
  commanded: CommandedView | null;
  observed: ObservedView | null;
  /** What its device says of its own output, in words, where something else tells its state; null: it says nothing. */
  claimed: string | null;
  agreement: Agreement;
  /** When it goes off by itself, if it does. */
  offAt: string | null;
  /** What a person should look at although no command failed of it. */
  concerns: { kind: string; text: string; since: string }[];
  lockout: LockoutView | null;
  lastCommand: CommandView | null;
}

/** A person's hold on a channel, or on its whole device. */
export interface LockoutView {
  id: string;
  holder: string;
  /** The member who holds it; see `id` of the session. */
  holderId: number | null;
  reason: string | null;
  /** Releasing it releases every channel of the device. */
  wholeDevice: boolean;
  since: string;
}

/** A group or a scene. */
export interface BundleView {
  kind: "group" | "scene";
  address: string;
  name: string;
  /** The addresses of its channels. */
  channels: string[];
  actions: string[];
}

/** GET /api/v1/sites */
export interface SiteListView {
  slug: string;
  name: string;
  /** IANA time zone of the place; null: its description has none. */
  timeZone: string | null;
  /** Of its description. */
  version: number;
  devices: number;
  channels: number;
}

export interface SiteView {
  slug: string;
  name: string;
  /** IANA time zone of the place; null: its description has none. */
  timeZone: string | null;
  bundles: BundleView[];
  /** In schedule order. */
  channels: ChannelView[];
}

/** GET /api/v1/board */
export interface BoardView {
  /** When this was true. */
  at: string;
  /** The last live event that this knows of: as `Last-Event-ID` of GET /live it brings what changed since, for a minute. */
  event: string;
  sites: SiteView[];
}

export interface PartStatus {
  up: boolean;
  /** Last round trip, ms; null when there was none. */
  roundTripMs: number | null;
  /** What is wrong and what to do; null when nothing is. */
  trouble: string | null;
}

/** GET /api/v1/status */
export interface StatusView {
  version: string;
  /** The commit that it was built from; null: it runs from a clone. */
  build: string | null;
  startedAt: string;
  broker: PartStatus;
  database: PartStatus;
  counts: {
    sites: number;
    devices: number;
    /** How many of the devices are online, offline, never heard and not watched. Together they are all devices. */
    presence: Record<DevicePresence, number>;
    channels: number;
    on: number;
    drifting: number;
    unknown: number;
    openCommands: number;
  };
  /** How requests of the last 24 h ended, by outcome of their commands: of the site that may be seen. */
  lastDay: { requests: number; delivered: number; notDelivered: number; refused: number };
  /** Names of instances that lead and do not answer: what they count is missing here. */
  missing: string[];
}

/** GET /api/v1/channels/<address>/day */
export interface HistoryView {
  channel: string;
  /** As people say it: "Porch lantern, Finch". */
  name: string;
  kind: KindName;
  /** From when to when: 24 hours, or less where more than 5 000 changes or commands are in them. */
  from: string;
  at: string;
  /** One line, to copy or to read to a caller. */
  answer: string;
  /** How long it was on, ms. */
  onMs: number;
  /** Whether it was on when these 24 hours began. */
  wasOn: boolean;
  /** When it was on, oldest first. */
  on: { from: string; to: string }[];
  /** How many commands were asked for and have ended, and how many of them were not delivered. */
  commanded: number;
  notDelivered: number;
  /** Each of them, oldest first: when it was asked for and how it ended. */
  commands: { at: string; end: End | null }[];
  /** A page of changes and commands, oldest first. */
  entries: HistoryEntry[];
  /** Ask with `before` this moment for what was earlier; null: nothing was. */
  older: string | null;
}

/** GET /api/v1/channels/<address>/trend?days=7: a reading has a curve, everything else the time that it was on. */
export interface TrendView {
  channel: string;
  name: string;
  kind: string;
  unit: string | null;
  /** IANA time zone of the days. */
  zone: string;
  /** From when to when. */
  from: string;
  at: string;
  /** Oldest first: what was read in each stretch of time in which something was, and when last. */
  readings: { at: string; low: number; high: number; last: number }[];
  /** Oldest first, today with them: how long it was on, ms. */
  days: { day: string; onMs: number }[];
}

export interface HistoryEntry {
  at: string;
  /** What the device said that it is, or what was asked of it. */
  kind: "change" | "command";
  /** In words. */
  is: string;
  /** Of a change: whether it was made, lit or moving from then on. */
  on: boolean | null;
  /** Who or what. */
  by: string;
  command: CommandView | null;
}
