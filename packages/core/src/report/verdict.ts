/** In plain words: how far a command got, where it stopped, what that means for the channel, what to do. */
import type { Reason } from "../delivery/command.ts";
import type { Aim, End, Stage } from "../delivery/stage.ts";
import { formatDuration } from "./duration.ts";
import type { IgnoredWords } from "./ignored.ts";
import { readVerdict, stopVerdict } from "./stop-verdict.ts";

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
  /** The setpoint in words: "on", "35 %". */
  readonly to: string;
  /** Whether it is tried until it is proven. */
  readonly urgent: boolean;
  readonly stage: Stage;
  readonly aim: Aim;
  readonly end: End | null;
  readonly reason: Reason | null;
  readonly attempts: number;
  /** The device's own code, or the broker's, of a refusal. */
  readonly code: number | null;
  /** What the device or its translator last said of why not, in its own words. */
  readonly said: string | null;
  /** Of one that a person closed: who, and why. */
  readonly note: string | null;
  /** It asked only what the channel is. */
  readonly reads: boolean;
  /** Whether the device acknowledged it. */
  readonly acknowledged: boolean;
  /** Confirmed because the channel was so already. */
  readonly already: boolean;
  /** From acceptance to the end, ms; null while open. */
  readonly tookMs: number | null;
  /** The device in words: "relay board in the porch cupboard". */
  readonly device: string;
  /** Whether the device is on the broker, by its own word; null when it never said. */
  readonly present: boolean | null;
  readonly topic: string;
  /** What the device said meanwhile that proved nothing; null: it said nothing of that kind. */
  readonly ignored: IgnoredWords | null;
  /** Confirmed by something else that sees the channel, not by its own device. */
  readonly measured: boolean;
}

/** The verdict on one command. */
export function verdict(facts: VerdictFacts): Verdict {
  if (facts.end === null) return openVerdict(facts);
  if (facts.end === "complete") return completeVerdict(facts);
  const { headline, text } = facts.reads ? readVerdict(facts) : stopVerdict(facts);
  const moot = facts.end === "superseded" || facts.end === "overtaken";
  return { tone: moot ? "moot" : "bad", headline, text };
}

function openVerdict({ stage, attempts, urgent }: VerdictFacts): Verdict {
  const next = {
    accepted:
      attempts === 0
        ? "It is kept and waits for its turn or for the broker."
        : "It is sent; the broker's receipt is owed.",
    published: "The broker has it; the device's answer is owed.",
    acknowledged: "The device took it; its report of what the channel is now is owed.",
    confirmed: "The device reports it done.",
  }[stage];
  const insists =
    urgent && attempts > 1 ? ` It is urgent: sent ${attempts} times so far, and tried until it is proven.` : "";
  return { tone: "open", headline: "On its way.", text: `${next}${insists}` };
}

function completeVerdict({ to, aim, tookMs, already, reads, attempts, measured, acknowledged }: VerdictFacts): Verdict {
  const took = tookMs === null ? "" : `, ${formatDuration(tookMs)} after the asking`;
  if (reads) return { tone: "good", headline: "Read.", text: `The device was asked what it is, and said so${took}.` };
  if (already && attempts === 0) {
    return {
      tone: "good",
      headline: "Confirmed, was already so.",
      text: `It is seen to be ${to}, so nothing was sent: another impulse would have changed it.`,
    };
  }
  if (already) {
    return {
      tone: "good",
      headline: "Confirmed, was already so.",
      text: `The device took the command${took}. It had said before that it is ${to}, and it only reports changes.`,
    };
  }
  if (measured) {
    const text = `It was measured to be ${to}${took}: another channel sees it.`;
    return { tone: "good", headline: "Confirmed, measured.", text };
  }
  if (aim === "confirmed") {
    const text = `The device ${acknowledged ? "took the command and " : ""}reports ${to}${took}.`;
    return { tone: "good", headline: "Confirmed.", text };
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
