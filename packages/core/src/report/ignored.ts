/**
 * What a device said while a command was open and that proved nothing, in words. Trace, alert and commissioning all say it by
 * this one function.
 */

import { printable } from "../codec/utf8.ts";
import type { Hop, RawMessage } from "../delivery/command.ts";
import type { IgnoredWhy, Remark } from "../delivery/remark.ts";

export interface IgnoredWords {
  /** Whether it said anything on its topics; false: only its presence changed. */
  readonly answered: boolean;
  /** "The board answered, but …, so …." */
  readonly text: string;
  /** What to do. */
  readonly tryThis: string;
}

/** What counts most stands first: of several remarks that is the one that is told. */
const RANK: readonly (IgnoredWhy | "contradicted")[] = [
  "no-result",
  "garbled",
  "other-channel",
  "other-command",
  "contradicted",
  "other-value",
  "restarted",
  "went",
  "came",
  "late",
  "not-commanded",
  "retained",
  "waited",
  "early",
  "doubled",
];

/**
 * @param device in words: "relay board in the porch cupboard"
 * @returns null when it said nothing that was left out
 * @example ignoredWords("board in the hall", [garbled hop]) // → { text: "The board in the hall answered, but “BANANA” on … is not in its profile's form (…), so it proves nothing.", … }
 */
export function ignoredWords(device: string, hops: readonly Hop[]): IgnoredWords | null {
  const said = hops.filter(({ kind }) => kind === "ignored" || kind === "contradicted");
  const ranked = said
    .map((hop) => ({ hop, why: hop.remark?.why ?? ("contradicted" as const) }))
    .sort((one, other) => RANK.indexOf(one.why) - RANK.indexOf(other.why));
  const first = ranked[0]?.why;
  if (first === undefined) return null;
  // Of those that say the same the newest is told.
  const hop = said.findLast(({ remark }) => (remark?.why ?? "contradicted") === first);
  if (!hop) return null;
  const answered = !PRESENCE.includes(first);
  const { but, so, tryThis } = WORDS[first](hop);
  return { answered, text: `The ${device} ${answered ? "answered, but " : ""}${but}, so ${so}.`, tryThis };
}

const PRESENCE: readonly (IgnoredWhy | "contradicted")[] = ["went", "came", "restarted"];

interface Parts {
  readonly but: string;
  readonly so: string;
  readonly tryThis: string;
}

function quoted({ wire }: Hop): string {
  return wire ? `“${shortened(wire.payload)}” on ${wire.topic}` : "what it sent";
}

function shortened(payload: string): string {
  return payload.length <= 60 ? payload : `${printable(payload, 60)}…`;
}

const anotherValue = (hop: Hop): Parts => ({
  but: `${quoted(hop)} reports another value`,
  so: "it contradicts the command",
  tryThis: "Look at the output itself, then at range, words and polarity in the profile.",
});

const WORDS: Record<IgnoredWhy | "contradicted", (hop: Hop) => Parts> = {
  garbled: (hop) => ({
    but: `${quoted(hop)} is not in its profile's form${hop.remark?.detail ? ` (${hop.remark.detail})` : ""}`,
    so: "it proves nothing",
    tryThis: "Compare the payload form of its profile with what the board sends.",
  }),
  "no-result": (hop) => ({
    but: `${quoted(hop)} says neither yes nor no`,
    so: "it is unknown whether it switched",
    tryThis: "Name the board's own words for yes and no in its profile (done.ok, done.no).",
  }),
  "other-channel": (hop) => ({
    but: `${quoted(hop)} is about ${hop.remark?.detail ?? "another channel"}`,
    so: "nothing proves this channel",
    tryThis: "Compare the channel's number, words and topics with those of the board.",
  }),
  "other-value": anotherValue,
  contradicted: anotherValue,
  "other-command": (hop) => ({
    but: `${quoted(hop)} names another command`,
    so: "it is not this command's answer",
    tryThis: "The board must send back the id of the command that it obeys.",
  }),
  late: (hop) => ({
    but: `${quoted(hop)} came when no answer was expected any more, or belonged to an earlier command`,
    so: "it proves nothing about this one",
    tryThis: "Give the board more time (ackWithinMs), or let it name the command in its answer.",
  }),
  doubled: (hop) => ({
    but: `${quoted(hop)} acknowledged the same command once more`,
    so: "it adds no proof",
    tryThis: "The board answers each command twice: look at its firmware, or for a second subscription.",
  }),
  waited: (hop) => ({
    but: `${quoted(hop)} waited at the broker while the link was down and may be older than the command`,
    so: "it proves nothing about this command",
    tryThis: "The board should name the command in its report: then its report counts however late it comes.",
  }),
  early: (hop) => ({
    but: `${quoted(hop)} came before the broker had taken the command and may be older than the command`,
    so: "it proves nothing about this command",
    tryThis: "The board should name the command in its report. If this is frequent, look at the line to the broker.",
  }),
  retained: (hop) => ({
    but: `${quoted(hop)} is a retained message of unknown age`,
    so: "it proves nothing about this command",
    tryThis: "The board must report again when it has switched, not only leave a retained message.",
  }),
  "not-commanded": (hop) => ({
    but: `${quoted(hop)} says that a ${cause(hop.remark?.detail)} made it so`,
    so: "it is no proof of the command",
    tryThis: "Look at who or what else switches this channel.",
  }),
  went: () => ({
    but: "went offline while the command was open",
    so: "its answer may have been lost",
    tryThis: "Check its power and its link. Two boards with one client id throw each other off the broker.",
  }),
  came: () => ({
    but: "went offline and came back while the command was open",
    so: "its answer may have been lost",
    tryThis: "Check its power and its link. Two boards with one client id throw each other off the broker.",
  }),
  restarted: () => ({
    but: "restarted while the command was open",
    so: "it may have forgotten the command",
    tryThis: "Check its power supply: a relay that pulls in may make the board restart.",
  }),
};

/**
 * A report that cannot be read, for an alert and for whoever tries a profile.
 *
 * @param why what is wrong with its form
 */
export function unreadableText({ topic, payload }: RawMessage, why: string): string {
  return `“${shortened(payload)}” on ${topic} is not in its profile's form (${printable(why, 200)}). Its state is not known until it sends one that can be read. ${WORDS.garbled({ at: 0, kind: "ignored" }).tryThis}`;
}

/** The same in a few words, beside the message itself in a trace. @example ignoredNote({ why: "garbled", … }) // → "Not in its profile's form: …" */
export function ignoredNote({ why, detail, takenFor }: Remark): string {
  const as =
    takenFor === null || takenFor === "presence"
      ? ""
      : `Taken for ${takenFor === "report" ? "a report" : "an acknowledgement"}. `;
  return `${as}${NOTES[why]}${detail ? `: ${detail}` : ""}`;
}

const NOTES: Record<IgnoredWhy, string> = {
  garbled: "Not in its profile's form",
  "no-result": "It says neither yes nor no",
  "other-channel": "It is about another channel",
  "other-value": "It reports another value",
  "other-command": "It names another command",
  late: "No answer was expected any more, or it belongs to an earlier command",
  doubled: "The command was acknowledged already",
  retained: "Retained, so it may be of any age",
  waited: "It waited at the broker while the link was down, so it may be older than the command",
  early: "It came before the broker had taken the command, so it may be older than the command",
  "not-commanded": "Something else made it so",
  went: "The device went offline",
  came: "The device came back online",
  restarted: "The device restarted",
};

function cause(by: string | undefined): string {
  if (by === "timer") return "timer of its own";
  return by === "boot" ? "power-up" : "hand";
}
