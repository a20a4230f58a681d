/**
 * A profile, tried before it is used: what each action would write, to the byte, and how messages that were heard would be read
 * and what they would prove. Nothing is sent. Pure.
 */

import { kindOf, kindOfChannel } from "../channel/index.ts";
import { type Action, clampLevel, readsNumbers } from "../channel/kind.ts";
import { coloursIn, type Value } from "../channel/value.ts";
import { isGarbled, type Presence } from "../codec/codec.ts";
import { decodePresence } from "../codec/index.ts";
import { type MessageRead, readMessage } from "../codec/message.ts";
import { payloadText } from "../codec/utf8.ts";
import { answerWaitMs } from "../delivery/backoff.ts";
import { isWrittenBlind } from "../delivery/confirms.ts";
import { besideOf } from "../delivery/device-message.ts";
import type { ChannelId, CommandId } from "../id.ts";
import { checkSite } from "./check.ts";
import { readReport } from "./claim.ts";
import { type ChannelEntry, channelWords } from "./entry.ts";
import type { Finding } from "./finding.ts";
import { useOf } from "./in-topic.ts";
import type { DeviceDescription, Profile, SiteDescription } from "./model.ts";
import { buildSnapshot } from "./snapshot.ts";
import type { TopicUse } from "./snapshot-topics.ts";
import { isAsCommanded, writingFor, writtenFor } from "./writing.ts";

/** A message that was recorded or typed in. */
export interface HeardMessage {
  readonly topic: string;
  readonly payload: Uint8Array;
  readonly retained: boolean;
}

/** What one action would write. */
export interface TriedWrite {
  readonly channel: string;
  readonly action: string;
  /** What the channel shall be, in words. */
  readonly to: string;
  readonly topic: string;
  /** As text where it is text, else in hexadecimal. */
  readonly payload: string;
  readonly bytes: number;
  readonly qos: 0 | 1;
  readonly retain: boolean;
  /** How long the broker may keep it, s. */
  readonly expiryS: number;
}

/** How one message would be read. */
export interface TriedRead {
  readonly topic: string;
  readonly payload: string;
  /** null: no channel of the device has this topic, or nothing in it is understood. */
  readonly takenFor: "acknowledgement" | "report" | "acknowledgement and report" | "presence" | "command" | null;
  readonly channel: string | null;
  /** What it says: "on, by hand". */
  readonly means: string;
  /** What it would prove about a command that is open. */
  readonly proves: string;
}

export interface ProfileTrial {
  readonly writes: readonly TriedWrite[];
  readonly reads: readonly TriedRead[];
  readonly findings: readonly Finding[];
}

/** The id that stands for a command's in what is shown. */
const SHOWN_ID = "01890000-0000-7000-8000-000000000001" as CommandId;

export function tryProfile(
  profile: Profile,
  siteSlug: string,
  device: Pick<DeviceDescription, "slug" | "topics" | "channels">,
  heard: readonly HeardMessage[],
): ProfileTrial {
  const described: DeviceDescription = { ...device, name: device.slug, profile: profile.slug };
  const site: SiteDescription = {
    slug: siteSlug,
    name: siteSlug,
    rooms: [{ slug: "room", name: "Room", devices: [described] }],
  };
  const findings = checkSite(site, { profiles: new Map([[profile.slug, profile]]), ownerOf: () => null });
  const { channels, byTopic, shapes } = buildSnapshot(
    device.channels.map(({ slug, name, kind, delivery = {}, ...wiring }, index) => ({
      id: (index + 1) as ChannelId,
      number: index + 1,
      slug,
      name,
      kind,
      delivery,
      wiring,
      site: { slug: siteSlug, name: siteSlug },
      room: { slug: "room", name: "Room" },
      device: { id: 1, slug: device.slug, name: device.slug, ...(device.topics ? { topics: device.topics } : {}) },
      profile,
    })),
  );
  return {
    writes: channels.flatMap(writesOf),
    reads: heard.map((message) => readOf(message, useOf({ byTopic, shapes }, message.topic))),
    findings,
  };
}

/** One or a few setpoints of each action: both ends and the middle of what takes a level. */
function writesOf(channel: ChannelEntry): TriedWrite[] {
  const { kind, policy, profile, slug, drive } = channel;
  const once = !kindOf(kind).repeatable || drive !== "set";
  return Object.entries(kindOf(kind).actions).flatMap(([action, does]) =>
    samplesOf(channel, does).flatMap((to): TriedWrite[] => {
      // A switch of a two-way circuit is written as the other of what it is: shown for one that is off.
      const writes = writtenFor(channel, to, "off");
      const writing = writes === null ? null : writingFor(channel, SHOWN_ID, writes, null);
      if (!writing) return [];
      return [
        {
          channel: slug,
          action,
          to: channelWords(channel, to),
          topic: writing.topic,
          payload: payloadText(writing.payload).replace(SHOWN_ID, "<id>"),
          bytes: writing.payload.length,
          qos: isWrittenBlind({ once, policy }) ? 0 : 1,
          retain: profile.retainCommands === true,
          expiryS: Math.max(1, Math.ceil(answerWaitMs(policy, 1, SHOWN_ID) / 1_000)),
        },
      ];
    }),
  );
}

function samplesOf(channel: ChannelEntry, does: Action): readonly Value[] {
  if (does.asks === "to") return [does.to];
  if (does.asks === "colour") return ["#ff8800"];
  if (does.asks === "pattern") return ["#ff0000,#00ff00"];
  const { range } = kindOfChannel(channel);
  if (does.asks !== "level" || !range) return [];
  const between = range.ofChannel ? [(range.least + range.most) / 2] : [1, 50];
  return [...new Set([range.least, ...between, range.most].map((one) => clampLevel(kindOfChannel(channel), one)))];
}

function readOf({ topic, payload, retained }: HeardMessage, use: TopicUse | undefined): TriedRead {
  const shown = { topic, payload: payloadText(payload) };
  const none = (means: string): TriedRead => ({ ...shown, takenFor: null, channel: null, means, proves: "nothing" });
  if (!use) return none("no channel of this device has this topic");
  const here = use.here ? decodePresence(use.here.profile.codec, payload) : null;
  if (here && !isGarbled(here))
    return { ...shown, takenFor: "presence", channel: null, means: presenceSaid(here), proves: "nothing" };
  const [told] = use.do;
  if (told && use.is.length === 0 && use.done.length === 0)
    return {
      ...shown,
      takenFor: "command",
      channel: use.do.length === 1 ? told.slug : null,
      means: "a command",
      proves: "nothing",
    };
  const read = readBy(use, payload, topic);
  if (!read) return none(here && isGarbled(here) ? here.garbled : "it names none of the device's channels");
  const said = { ...shown, ...saidBy(read.channel, read.message, retained), channel: read.channel.slug };
  return putsInDoubt(read.channel, use, read.message) ? { ...said, proves: DOUBT } : said;
}

function presenceSaid({ up, boot }: Presence): string {
  if (!up) return "offline";
  return boot === null ? "online" : `online, power-up ${boot}`;
}

const DOUBT = "nothing, and its state is not known until it reports again";

/** A report of the channel that cannot be read: what it was before does not count any more. */
function putsInDoubt(channel: ChannelEntry, { is }: TopicUse, { garbled, unattributed }: MessageRead): boolean {
  return garbled !== null && !unattributed && is.includes(channel);
}

function readBy({ done, is }: TopicUse, payload: Uint8Array, topic: string) {
  const all = [...new Set([...is, ...done])].flatMap((channel) => {
    const roles = { done: done.includes(channel), is: is.includes(channel) };
    const message = readMessage(channel.codec, roles, payload, besideOf(channel, topic, null));
    return message === null ? [] : [{ channel, message }];
  });
  return all.find(({ message }) => message.garbled === null) ?? all[0];
}

function saidBy(
  channel: ChannelEntry,
  { answer, report, garbled }: MessageRead,
  retained: boolean,
): Pick<TriedRead, "takenFor" | "means" | "proves"> {
  if (garbled !== null) return { takenFor: null, means: garbled, proves: "nothing" };
  const said: string[] = [];
  const proofs: string[] = [];
  if (answer) {
    said.push(answerWords(answer));
    proofs.push(proofOfAnswer(answer.ok));
  }
  if (report) {
    said.push(`${channelWords(channel, report.value)}${report.by === null ? "" : `, by ${report.by}`}`);
    proofs.push(proofOfReport(channel, report.value, report.by));
  }
  return {
    takenFor: answer && report ? "acknowledgement and report" : answer ? "acknowledgement" : "report",
    means: said.join("; "),
    proves: retained ? "nothing: it is retained, and may be of any age" : proofs.join("; "),
  };
}

function answerWords({ ok, code }: NonNullable<MessageRead["answer"]>): string {
  const word = ok === null ? "passed on" : ok ? "yes" : "no";
  return code === null ? word : `${word}, code ${code}`;
}

function proofOfAnswer(ok: boolean | null): string {
  if (ok === null) return "nothing: whoever passed the command on does not know";
  return ok ? "acknowledged" : "failed: the device refused";
}

function proofOfReport(channel: ChannelEntry, value: Value, by: string | null): string {
  if (by !== null && by !== "command") return `nothing of a command: ${by} made it so`;
  const colours = coloursIn(value);
  const setpoints = (colours.length > 0 ? [value] : setpointsOf(channel)).filter(
    (to) => isAsCommanded(channel, value, to) && to !== "stop",
  );
  if (value === "stop") setpoints.push("stop");
  const [first] = setpoints;
  const last = setpoints.at(-1);
  if (first === undefined || last === undefined) return `nothing of a command: no value is written like this`;
  const so =
    first === last ? channelWords(channel, first) : `${channelWords(channel, first)} to ${channelWords(channel, last)}`;
  if (channel.seenBy) return `acknowledged, of a command to be ${so}: what sees it confirms`;
  return `confirmed, of a command to be ${so}; contradicted, of any other`;
}

/** Setpoints of one channel that are tried at most. */
const MOST_TRIED = 10_000;

/** Every setpoint that a channel can be commanded to be, colours apart: of these the one that was reported. */
function setpointsOf(channel: ChannelEntry): Value[] {
  const { range, actions, rest, full } = kindOfChannel(channel);
  if (range) {
    const { least, most, step = 1 } = range;
    const count = Math.min(MOST_TRIED, Math.floor((most - least) / step) + 1);
    return Array.from({ length: count }, (_, at) => Number((least + at * step).toPrecision(12)));
  }
  const told = Object.values(actions).flatMap((does) => (does.asks === "to" ? [does.to] : []));
  return [...new Set<Value>([...told, rest, full])];
}

/** How well a profile's payloads fit what was heard, whatever the topics. */
export interface ProfileFit {
  readonly profile: string;
  readonly name: string;
  /** How many of the messages it understands, */
  readonly understood: number;
  /** and how many it would have written just so. */
  readonly exact: number;
}

/** @returns the profiles that understand most of the messages first; those that understand none are left out */
export function nearestProfiles(
  profiles: readonly Profile[],
  heard: readonly Pick<HeardMessage, "payload">[],
): ProfileFit[] {
  const fits = profiles.map((profile): ProfileFit => {
    const read = heard.map(({ payload }) => fitOf(profile, payload));
    const understood = read.filter((one) => one !== "none").length;
    return {
      profile: profile.slug,
      name: profile.name,
      understood,
      exact: read.filter((one) => one === "exact").length,
    };
  });
  return fits
    .filter(({ understood }) => understood > 0)
    .sort(
      (one, other) =>
        other.understood - one.understood || other.exact - one.exact || (one.profile < other.profile ? -1 : 1),
    );
}

function fitOf(profile: Profile, payload: Uint8Array): "exact" | "loose" | "none" {
  const report = readReport(profile, { slug: "channel", name: "Channel" }, payload);
  // Any number is a reading: that counts for profiles of readings only.
  if (report && readsNumbers(kindOf(report.kind)) && profile.topics.do !== null) return "none";
  if (report) return report.exact ? "exact" : "loose";
  return isGarbled(decodePresence(profile.codec, payload)) ? "none" : "loose";
}
