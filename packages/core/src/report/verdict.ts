/** In plain words: how far a command got, where it stopped, what that means for the channel, what to do. */
import { formatDuration } from "./duration.ts";
import { readVerdict, stopVerdict } from "./stop-verdict.ts";
import type { VerdictFacts } from "./verdict-facts.ts";

/** good: proven · weak: done as far as this device can prove · open: still going · bad: stopped · moot: replaced. */
export type Severity = "good" | "weak" | "open" | "bad" | "moot";

export interface Verdict {
  readonly tone: Severity;
  /** A few words: where it stopped. */
  readonly headline: string;
  /** One to three sentences. */
  readonly text: string;
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
