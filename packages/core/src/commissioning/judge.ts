/**
 * What the evidence of a step says: passed, failed with what to try, or that only the person can tell. It knows the
 * usual mistakes: a topic off by a letter, payloads that mean nothing, a polarity or a range the wrong way round,
 * answers without reports, only retained state, two devices with one client id.
 */

import { kindOfChannel } from "../channel/index.ts";
import type { Value } from "../channel/value.ts";
import type { Reason } from "../delivery/command.ts";
import type { End } from "../delivery/stage.ts";
import { formatDuration } from "../report/duration.ts";
import type { IgnoredWords } from "../report/ignored.ts";
import { type ChannelEntry, channelWords } from "../site/entry.ts";
import { editDistance } from "../site/spelling.ts";
import { topicFor } from "../site/writing.ts";
import { PATTERN_WORDS, type PresencePattern } from "../state/presence-pattern.ts";
import type { CommissioningStep } from "./step.ts";

export type Judgement = Pick<CommissioningStep, "text" | "tryThis"> & {
  readonly state: "passed" | "failed" | "asks" | "skipped";
};

/** What one ask came to. */
export interface TrialEvidence {
  readonly to: Value;
  readonly end: End | null;
  readonly reason: Reason | null;
  /** ms after the request; null: never seen. */
  readonly acknowledgedMs: number | null;
  readonly confirmedMs: number | null;
  /** What the device said that it is, after the request; null: nothing. */
  readonly reported: Value | null;
  /** What it said that proved nothing; null: nothing of that kind. */
  readonly ignored: IgnoredWords | null;
}

/** A message on a topic of the device's that means nothing in its profile's form. */
export interface GarbledMessage {
  readonly topic: string;
  readonly payload: string;
  readonly why: string;
}

export interface ChannelEvidence {
  readonly trials: readonly TrialEvidence[];
  /** What was said on its topics and meant nothing, newest last. */
  readonly garbled: readonly GarbledMessage[];
  /** Reports came, but each of them lay retained. */
  readonly onlyRetained: boolean;
  /** Topics that somebody uses and no device of ours claims. */
  readonly unassigned: readonly string[];
  /** What the device's comings and goings tell; null: nothing conspicuous. */
  readonly pattern: PresencePattern | null;
}

export function judgeLink(up: boolean, trouble: string | null): Judgement {
  if (up) return passed("The broker answers.");
  return failed(
    `The broker cannot be reached: ${trouble ?? "no reason given"}.`,
    "Check its address, user and password, and that it runs.",
  );
}

export interface PresenceEvidence {
  /** The topic on which it would say so; null: its profile has none. */
  readonly topic: string | null;
  readonly up: boolean | null;
  /** What its comings and goings tell; null: nothing conspicuous. */
  readonly pattern: PresencePattern | null;
  /** A channel that should report regularly and has not for three times as long; null: none. */
  readonly silent: { readonly name: string; readonly everyMs: number } | null;
  readonly unassigned: readonly string[];
}

export function judgePresence({ topic, up, pattern, silent, unassigned }: PresenceEvidence): Judgement {
  if (topic === null) return { state: "skipped", text: "Its profile has no presence.", tryThis: null };
  if (pattern !== null) return failed(PATTERN_WORDS[pattern].text, PATTERN_WORDS[pattern].tryThis);
  if (up === true && silent !== null)
    return failed(
      `It is online, but ${silent.name} has not reported for more than ${formatDuration(3 * silent.everyMs)}.`,
      `It is expected to report every ${formatDuration(silent.everyMs)} (reportsEveryMs). Restart the board, and look at its report timer.`,
    );
  if (up === true) return passed("It reports that it is online.");
  if (up === false)
    return failed("Its last will says that it is offline.", "Check its power, its network and its broker user.");
  const near = nearest(topic, unassigned);
  if (near)
    return failed(
      `No message was ever received on ${topic}.`,
      `Messages arrive on ${near}. Compare the two topics letter by letter, capitals too.`,
    );
  return failed(
    `No message was ever received on ${topic}.`,
    "Check the device's power, network, broker address, user and password, and its topics.",
  );
}

/** Whether a channel does what it is told, by its own word or, where it has none, by what the person saw. */
export function judgeChannel(channel: ChannelEntry, evidence: ChannelEvidence): Judgement {
  const { trials } = evidence;
  const bad = trials.find(({ end }) => end !== "delivered");
  if (bad) return judgeFailed(channel, bad, evidence);
  const slowest = Math.max(...trials.map(({ confirmedMs, acknowledgedMs }) => confirmedMs ?? acknowledgedMs ?? 0));
  const asked = trials.map(({ to }) => channelWords(channel, to)).join(", ");
  if (channel.policy.targetStage === "confirmed") {
    return {
      ...passed(`It executed ${asked} and reported it, in ${formatDuration(slowest)} at most.`),
      tryThis: narrow(channel, trials),
    };
  }
  const proven = channel.policy.targetStage === "acknowledged" ? "It acknowledged" : "The broker has";
  return {
    state: "asks",
    text: `${proven}: ${asked}. It cannot report its state. Did you see it switch?`,
    tryThis: null,
  };
}

function judgeFailed(channel: ChannelEntry, bad: TrialEvidence, evidence: ChannelEvidence): Judgement {
  return judgeSaid(channel, bad, evidence) ?? judgeUnsaid(channel, bad, evidence);
}

/** Where the device, or the broker, said what is wrong. */
function judgeSaid(channel: ChannelEntry, bad: TrialEvidence, evidence: ChannelEvidence): Judgement | null {
  const asked = channelWords(channel, bad.to);
  const garbled = evidence.garbled.at(-1);
  if (evidence.pattern !== null)
    return failed(PATTERN_WORDS[evidence.pattern].text, PATTERN_WORDS[evidence.pattern].tryThis);
  if (bad.reported !== null && isTurned(channel, bad))
    return failed(
      bad.ignored?.text ?? `Commanded ${asked}, it reported ${channelWords(channel, bad.reported)}.`,
      turnAdvice(channel, bad),
    );
  if (bad.ignored?.answered && bad.end !== "failed") return failed(bad.ignored.text, bad.ignored.tryThis);
  if (garbled) return failedGarbled(garbled);
  if (bad.reason === "nobody-listens") return nobodyListens(topicFor(channel, bad.to) ?? "", evidence.unassigned);
  if (bad.reason === "device-refused")
    return failed(
      `Commanded ${asked}, it refused.`,
      "Look up its result code, and check whether something blocks the output.",
    );
  // What the command's own trace holds counts also when the wire, which leaves messages out under load, has not shown it.
  const reported =
    bad.reported === null ? null : `Commanded ${asked}, it reports ${channelWords(channel, bad.reported)}.`;
  const said = bad.ignored?.answered || reported !== null ? (bad.ignored?.text ?? reported) : null;
  return said === null ? null : failed(said, "Look at the device itself, and at its range and words in the profile.");
}

/** Where something is missing. */
function judgeUnsaid(channel: ChannelEntry, bad: TrialEvidence, evidence: ChannelEvidence): Judgement {
  const { topics } = channel;
  const asked = channelWords(channel, bad.to);
  // A topic that differs by a letter or by case explains more than an old message does.
  const near = topics.is === null ? null : nearest(topics.is, evidence.unassigned);
  const compare = `Messages arrive on ${near}, and ${topics.is} was expected. Compare the two letter by letter, capitals too.`;
  if (bad.acknowledgedMs !== null)
    return failed(
      `It acknowledged ${asked}, but did not report it on ${topics.is} within ${formatDuration(channel.policy.settleMs)}.`,
      near
        ? compare
        : evidence.onlyRetained
          ? "Only an old retained report is there, which proves nothing. The device must report again when it has switched."
          : "Compare the topic of its reports, give it more time (settleMs), or set targetStage to acknowledged.",
    );
  return failed(
    `It did not acknowledge ${asked} (${bad.reason ?? bad.end ?? "still open"}).`,
    near
      ? compare
      : "Watch the wire during the step. Does the device receive the command, and does it understand the payload?",
  );
}

/**
 * Command and report disagree about which way round it is. That no “reversed” can mend, for it turns both: one of the two directions
 * must be turned, and only who looks at the output can say which.
 */
function turnAdvice(channel: ChannelEntry, { to }: TrialEvidence): string {
  const asked = channelWords(channel, to);
  if (channel.profile.codec === "json")
    return `Its reports run the other way round than its commands: commanded ${asked}, “to” says the opposite. Correct its firmware. “reversed” turns both directions and does not help.`;
  return `Its reports run the other way round than its commands. Look at the output itself. If it is ${asked}, turn the reports: codec.is with turned: true. If it is not, turn the commands: codec.do with turned: true. Both need the form apart. “reversed” turns both directions and does not help.`;
}

/**
 * Advice that was given for this step before is not repeated: whoever followed it needs the next thing to look at.
 *
 * @param advised what the step said the last time that it failed; null: it did not
 */
export function withoutRepeating(judgement: Judgement, advised: string | null): Judgement {
  if (judgement.state !== "failed" || judgement.tryThis === null || judgement.tryThis !== advised) return judgement;
  const tryThis =
    "The same as before. Open the wire beside this step and run it again: compare each topic and payload with the board's manual, letter by letter.";
  return { ...judgement, tryThis };
}

function nobodyListens(topic: string, unassigned: readonly string[]): Judgement {
  const near = nearest(topic, unassigned);
  const hint = near
    ? `Messages arrive on ${near}. Compare the two topics letter by letter, capitals too.`
    : "Check the topic that the device subscribes to, letter by letter and with its capitals, and its permissions at the broker.";
  return failed(`Nobody listens on ${topic}.`, hint);
}

/** The opposite of what was asked: the other word, or the level counted from the other end. */
function isTurned(channel: ChannelEntry, { to, reported }: TrialEvidence): boolean {
  const { policy } = channel;
  const { range } = kindOfChannel(channel);
  if (typeof to === "number" && typeof reported === "number" && range) {
    const turned = range.least + range.most - to;
    return Math.abs(turned - to) > policy.tolerance && Math.abs(turned - reported) <= policy.tolerance;
  }
  return (to === "on" && reported === "off") || (to === "off" && reported === "on");
}

/** What passed only just: a busier day would fail it. */
function narrow({ policy }: ChannelEntry, trials: readonly TrialEvidence[]): string | null {
  const acknowledged = Math.max(...trials.map((one) => one.acknowledgedMs ?? 0));
  if (acknowledged > policy.ackWithinMs * 0.7)
    return `It answers in ${formatDuration(acknowledged)}, and ackWithinMs is ${policy.ackWithinMs}: set it to twice that time.`;
  const settled = Math.max(...trials.map((one) => (one.confirmedMs ?? 0) - (one.acknowledgedMs ?? 0)));
  if (settled > policy.settleMs * 0.7)
    return `It reports ${formatDuration(settled)} after its answer, and settleMs is ${policy.settleMs}: set it to twice that time.`;
  return null;
}

/** The topic of a list that is most like this one; null when none is like it. */
export function nearest(topic: string, others: readonly string[]): string | null {
  const allowed = Math.min(4, Math.max(2, Math.floor(topic.length / 6)));
  const wanted = topic.toLowerCase();
  const found = others
    .map((other) => ({ other, distance: editDistance(other.toLowerCase(), wanted, allowed) }))
    .filter(({ distance }) => distance <= allowed)
    .sort((one, two) => one.distance - two.distance);
  return found[0]?.other ?? null;
}

export function passed(text: string): Judgement {
  return { state: "passed", text, tryThis: null };
}

export function failed(text: string, tryThis: string): Judgement {
  return { state: "failed", text, tryThis };
}

export function failedGarbled({ topic, payload, why }: GarbledMessage): Judgement {
  return failed(
    `On ${topic} it says “${payload}”, which means nothing here: ${why}.`,
    "Change the payload form of its profile.",
  );
}
