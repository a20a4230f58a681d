/** What is wrong or doubtful about one channel: what its kind, its profile and its settings mean together. */
import { kindNames, kindOf } from "../channel/index.ts";
import { actionTo, type ChannelKind } from "../channel/kind.ts";
import type { ChannelBinding } from "../codec/codec.ts";
import { bindCodec } from "../codec/index.ts";
import type { DeliveryPolicy } from "../delivery/policy.ts";
import { answersLikeReports, formConflicts, unfitForTopics } from "./check-payload.ts";
import type { Finding } from "./finding.ts";
import { saysInTopic } from "./in-topic.ts";
import type { ChannelDescription, Profile, TopicPatterns } from "./model.ts";

export interface ChannelToCheck {
  readonly channel: ChannelDescription;
  readonly profile: Profile;
  /** Its own before its device's before its profile's. */
  readonly topics: TopicPatterns;
  readonly binding: ChannelBinding;
  /** Where it stands: "devices/finch/porch". */
  readonly at: string;
}

type Level = Finding["level"];

export function channelFindings(checked: ChannelToCheck): Finding[] {
  const { channel, profile, at } = checked;
  const policy = { ...profile.delivery, ...channel.delivery };
  const said = kindOf(channel.kind).input
    ? [...settingMistakes(checked), ...inputMistakes(checked)]
    : [
        ...settingMistakes(checked),
        ...outputMistakes(checked),
        ...proofMistakes(checked, policy),
        ...driveMistakes(checked, policy),
        ...restMistakes(checked, policy),
        ...topicMistakes(checked),
      ];
  const doubts = kindOf(channel.kind).input ? [] : doubtsOf(checked, policy);
  const finding = (level: Level) => (text: string) => ({ level, at, text });
  return [...said.map(finding("wrong")), ...doubts.map(finding("doubt"))];
}

function settingMistakes({ channel, profile, binding }: ChannelToCheck): string[] {
  const kind = kindOf(channel.kind);
  const { made, calibration, range } = channel;
  const { least = 0, most = 100 } = calibration ?? {};
  const mistakes = formConflicts(profile.codec, binding).map((conflict) => `has ambiguous words: ${conflict}.`);
  if (made !== undefined && kind.answers !== "made")
    mistakes.push(`says what it means when it is made (made), but is a ${kind.name}: only a contact does.`);
  if (range && !kind.range?.ofChannel)
    mistakes.push(`has a range, but a ${kind.name} has none of its own: only a setpoint does.`);
  if (range && range.least >= range.most)
    mistakes.push(`has a range whose least number, ${range.least}, is not below the greatest, ${range.most}.`);
  if (calibration && (!kind.range || kind.range.ofChannel))
    mistakes.push(`has a calibration, but a ${kind.name} has no levels.`);
  if (least >= most)
    mistakes.push(`has a least useful level of ${least} %, which is not below the greatest, ${most} %.`);
  return mistakes;
}

/** A value in a topic must be a legal level. */
function topicMistakes({ channel, profile, topics, binding }: ChannelToCheck): string[] {
  if (topics.do === null || !saysInTopic(topics.do)) return [];
  if (profile.retainCommands)
    return [
      "gets retained commands, and its command topic differs with each of them: give it one topic for all commands.",
    ];
  if (!topics.do.includes("{value}")) return [];
  const unfit = unfitForTopics(profile.codec, binding);
  return unfit === null
    ? []
    : [
        `is a ${channel.kind}, and “${unfit}” cannot stand in a topic. Give it other words, or put {value} into the payload.`,
      ];
}

function inputMistakes({ channel, topics }: ChannelToCheck): string[] {
  return topics.is === null ? [`is a ${channel.kind}, but its profile reports nothing (topics.is).`] : [];
}

function outputMistakes({ channel, topics }: ChannelToCheck): string[] {
  return topics.do === null ? [`is a ${channel.kind}, but its profile takes no commands (topics.do).`] : [];
}

/** A setpoint has nothing to which a rule could send it back by itself. */
function restMistakes({ channel }: ChannelToCheck, policy: Partial<DeliveryPolicy>): string[] {
  if (!kindOf(channel.kind).range?.ofChannel) return [];
  const mistakes: string[] = [];
  if (policy.autoOffMs || policy.holdForMs)
    mistakes.push("is a setpoint, which is never off: autoOffMs and holdForMs cannot be kept.");
  if (policy.powerUp === "safe" && typeof policy.safe !== "number")
    mistakes.push("goes to its safe state after a power cut, and has none: set safe to a number.");
  return mistakes;
}

/** Whether the device can prove its target stage. */
function proofMistakes(
  { channel, profile, topics, binding }: ChannelToCheck,
  policy: Partial<DeliveryPolicy>,
): string[] {
  const mistakes: string[] = [];
  const targetStage = policy.targetStage ?? "confirmed";
  const isSeen = topics.is !== null || channel.seenBy !== undefined;
  if (topics.done !== null && topics.done === topics.is && answersLikeReports(profile.codec, binding))
    mistakes.push(
      "acknowledges and reports on one topic, and some reports read like acknowledgements. Let a result or an id tell them apart (done), or leave topics.done out.",
    );
  if (targetStage === "confirmed" && !isSeen && kindOf(channel.kind).repeatable)
    mistakes.push(
      "has the target stage confirmed, but its profile reports nothing (topics.is) and nothing sees it (seenBy). Set targetStage to acknowledged or published.",
    );
  if (targetStage !== "published" && topics.done === null && !isSeen)
    mistakes.push(
      `has the target stage ${targetStage}, but its profile neither answers nor reports. Set targetStage to published.`,
    );
  return mistakes;
}

/** What changes to the other state by each impulse must be seen. */
function driveMistakes(
  { channel, profile, topics, binding }: ChannelToCheck,
  { autoOffMs, powerUp }: Partial<DeliveryPolicy>,
): string[] {
  const { drive = "set", kind, seenBy } = channel;
  if (drive === "set") return [];
  // An impulse to the other of two states; with “flip” its own output tells on or off, and nothing between.
  const suits = ({ seenBy, range }: ChannelKind) => seenBy.includes("one") && (drive !== "flip" || range === null);
  const suited = kindNames.filter((name) => suits(kindOf(name)));
  const mistakes: string[] = [];
  if (bindCodec(profile.codec, binding).bitOf !== null)
    mistakes.push(
      `has drive: ${drive}, but one number tells all outputs of its board (bits): no impulse can be told by it.`,
    );
  if (!suited.includes(kind)) mistakes.push(`has drive: ${drive}, which suits ${suited.join(", ")}, not a ${kind}.`);
  if (topics.is === null && seenBy === undefined)
    mistakes.push(
      `has drive: ${drive}, and nothing tells what it is: give it a report topic (topics.is) or what sees it (seenBy), or make it a pulse.`,
    );
  if (drive === "flip" && (topics.is === null || seenBy === undefined))
    mistakes.push(
      "has drive: flip: its own report must tell where its output is (topics.is), and something else whether the lamp is lit (seenBy).",
    );
  if (autoOffMs || (powerUp !== undefined && powerUp !== "keep"))
    mistakes.push(
      `has drive: ${drive}, whose impulses are never repeated unasked: autoOffMs and powerUp cannot be kept.`,
    );
  return mistakes;
}

function doubtsOf({ channel, profile }: ChannelToCheck, policy: Partial<DeliveryPolicy>): string[] {
  const doubts: string[] = [];
  if (policy.holdForMs && !policy.timesItself)
    doubts.push("is held to run, but does not time itself: holding will be refused.");
  const kind = kindOf(channel.kind);
  if (actionTo(kind, kind.rest) === "stop" && !policy.holdForMs && !policy.autoOffMs)
    doubts.push("is a motor that nothing stops: set autoOffMs, or holdForMs where the device times itself.");
  if (kind.range?.ofChannel && !channel.range)
    doubts.push(
      "is a setpoint without a range: it takes 0 to 100 in whole steps. Say which numbers it takes, as range: { least: 5, most: 30, step: 0.5 }.",
    );
  if (profile.retainCommands)
    doubts.push(
      "gets retained commands: a board that connects while one lies at the broker obeys it. It expires with its attempt, and is cleared when the command has ended.",
    );
  return doubts;
}
