/** In plain words: how far a command got, where it stopped, what that means for the channel, what to do. */
import type { Value } from "../channel/kind.ts";
import type { Reason } from "../delivery/command.ts";
import type { Aim, End, Stage } from "../delivery/stage.ts";
import { formatDuration } from "./duration.ts";

/** good: proven · weak: done as far as this device can prove · open: still going · bad: stopped · moot: replaced. */
export type Tone = "good" | "weak" | "open" | "bad" | "moot";

export interface Verdict {
  readonly tone: Tone;
  /** A few words: where it stopped. */
  readonly headline: string;
  /** One to three sentences. */
  readonly text: string;
}

export interface VerdictFacts {
  readonly to: Value;
  readonly stage: Stage;
  readonly aim: Aim;
  readonly end: End | null;
  readonly reason: Reason | null;
  readonly attempts: number;
  /** The device's own code, or the broker's, of a refusal. */
  readonly code: number | null;
  /** Confirmed because the channel was so already. */
  readonly already: boolean;
  /** From acceptance to the end, ms; null while open. */
  readonly tookMs: number | null;
  /** The device in words: "relay board in the porch cupboard". */
  readonly device: string;
  /** Whether the device is on the broker, by its own word; null when it never said. */
  readonly present: boolean | null;
  readonly topic: string;
}

/** The verdict on one command. */
export function verdict(facts: VerdictFacts): Verdict {
  if (facts.end === null) return openVerdict(facts);
  if (facts.end === "complete") return completeVerdict(facts);
  const { headline, text } = stopVerdict(facts);
  const moot = facts.end === "superseded" || facts.end === "overtaken";
  return { tone: moot ? "moot" : "bad", headline, text };
}

function openVerdict({ stage, attempts }: VerdictFacts): Verdict {
  const next = {
    accepted:
      attempts === 0
        ? "It is kept and waits for its turn or for the broker."
        : "It is sent; the broker's receipt is owed.",
    published: "The broker has it; the device's answer is owed.",
    acknowledged: "The device took it; its report of what the channel is now is owed.",
    confirmed: "The device reports it done.",
  }[stage];
  return { tone: "open", headline: "On its way.", text: next };
}

function completeVerdict({ to, aim, tookMs, already }: VerdictFacts): Verdict {
  const took = tookMs === null ? "" : `, ${formatDuration(tookMs)} after the asking`;
  if (already) {
    return {
      tone: "good",
      headline: "Confirmed, was already so.",
      text: `The device took the command${took}. It had said before that it is ${to}, and it only reports changes.`,
    };
  }
  if (aim === "confirmed") {
    return { tone: "good", headline: "Confirmed.", text: `The device took the command and reports ${to}${took}.` };
  }
  if (aim === "acknowledged") {
    return {
      tone: "weak",
      headline: "Acknowledged.",
      text: `The device took the command${took}. It cannot report its state, so more than this cannot be proven.`,
    };
  }
  return {
    tone: "weak",
    headline: "Sent, unproven.",
    text: `The broker has the command${took}. This device never answers, so nobody knows whether it acted.`,
  };
}

function advice(present: boolean | null): string {
  if (present === false) return "It is off the broker: check its power and its link.";
  if (present)
    return "It is on the broker, so its power and its link are well: look at the board itself, or start it anew.";
  return "Check its power and its link.";
}

function stopVerdict(facts: VerdictFacts): { headline: string; text: string } {
  const { reason, device, to, attempts, code, present, topic } = facts;
  const times = attempts === 1 ? "once" : `${attempts} times`;
  const presence =
    present === false ? ` The ${device} is off the broker.` : present ? ` The ${device} is on the broker.` : "";
  const effect = facts.end === "failed" ? "so nothing was switched" : "though an earlier attempt may have switched it";
  switch (reason) {
    case "replaced-before-sending":
      return {
        headline: "Superseded.",
        text: "A newer command for this channel came before this one was sent. It never went out.",
      };
    case "replaced-after-sending":
      return {
        headline: "Overtaken.",
        text: "It was sent, then a newer command took its place. It may have acted for a moment.",
      };
    case "never-sent-in-time":
      return {
        headline: "Stopped before the broker.",
        text: `It could not be sent before its time ran out, so nothing was switched. Check the link to the broker, then send again.`,
      };
    case "sending-uncertain":
      return {
        headline: "Stopped by a restart.",
        text: `The service stopped before the sending was on record, and its time has run out. It may or may not have switched. Look at the channel, then send again.`,
      };
    case "no-broker-receipt":
      return {
        headline: "Stopped at the broker.",
        text: `Sent ${times}, but the broker never confirmed receipt. It may or may not have switched. Check the broker.`,
      };
    case "no-acknowledgement":
      return {
        headline: "Stopped at the device.",
        text: `The broker has the command, but the ${device} answered none of ${attempts} ${attempts === 1 ? "attempt" : "attempts"}. ${advice(present)} It may or may not have switched.`,
      };
    case "no-report":
      return {
        headline: "Stopped after the acknowledgement.",
        text: `The ${device} took the command but did not report what the channel is now. It has probably switched; nothing proves it. Look at the channel.`,
      };
    case "contradicted":
      return {
        headline: "Taken, then contradicted.",
        text: `The ${device} took the command, yet reports that the channel is not ${to}. Look for a hand at the switch, a welded contact or reversed polarity.`,
      };
    case "device-refused":
      return {
        headline: "Refused by the device.",
        text: `The ${device} answered no${code === null ? "" : ` (code ${code})`}. By its own word it did not switch. Look up the code in the device's manual.`,
      };
    case "nobody-listens":
      return {
        headline: "Nobody listens.",
        text: `The broker has no subscriber on ${topic}, ${effect}.${presence} Check its power, and its topic letter by letter.`,
      };
    case "broker-refused":
      return {
        headline: "Refused by the broker.",
        text: `The broker would not take the command${code === null ? "" : ` (reason ${code})`}, ${effect}. Check the service's permissions at the broker.`,
      };
    case "locked-out":
      return {
        headline: "Stopped by a lock-out.",
        text: `Somebody locked the channel out before it was sent, ${facts.end === "failed" ? "so nothing was switched" : "though it may have been sent before a restart"}. Send again when the lock-out is released.`,
      };
    case null:
      return { headline: "Ended.", text: "No reason was kept." };
  }
}
