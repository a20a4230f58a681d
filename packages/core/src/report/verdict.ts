/** In plain words: how far a command got, where it stopped, what that means for the channel, what to do. */
import { formatDuration } from "./duration.ts";
import { readVerdict, stopVerdict } from "./stop-verdict.ts";
import type { VerdictFacts } from "./verdict-facts.ts";

/** good: proven · weak: done as far as this device can prove · open: still going · bad: stopped · replaced: replaced. */
export type Severity = "good" | "weak" | "open" | "bad" | "replaced";

export interface Verdict {
  readonly severity: Severity;
  /** A few words: where it stopped. */
  readonly headline: string;
  /** One to three sentences. */
  readonly text: string;
}

/** The verdict on one command. */
export function verdict(facts: VerdictFacts): Verdict {
  if (facts.end === null) return openVerdict(facts);
  if (facts.end === "delivered") return completeVerdict(facts);
  const { headline, text } = facts.reads ? readVerdict(facts) : stopVerdict(facts);
  const replaced = facts.end === "replaced" || facts.end === "overtaken";
  return { severity: replaced ? "replaced" : "bad", headline, text };
}

function openVerdict({ stage, attempts, urgent }: VerdictFacts): Verdict {
  const next = {
    accepted:
      attempts === 0 ? "Waiting for an earlier command or for the broker." : "Sent. Waiting for the broker's receipt.",
    published: "Waiting for the device's acknowledgement.",
    acknowledged: "Waiting for the device to report its state.",
    confirmed: "The device reports it done.",
  }[stage];
  const insists =
    urgent && attempts > 1 ? ` Urgent: sent ${attempts} times so far. It is sent again until it is confirmed.` : "";
  return { severity: "open", headline: "In progress.", text: `${next}${insists}` };
}

function completeVerdict({
  to,
  targetStage,
  tookMs,
  already,
  unchanged,
  reported,
  reads,
  attempts,
  measured,
  acknowledged,
}: VerdictFacts): Verdict {
  const took = tookMs === null ? "" : `, ${formatDuration(tookMs)} after the request`;
  if (reads) return { severity: "good", headline: "Read.", text: `The device reported its state${took}.` };
  if (already && attempts === 0) {
    return {
      severity: "good",
      headline: "Confirmed, no change.",
      text: `The state is ${to} already. Nothing was sent, because another impulse would change it.`,
    };
  }
  if (already) {
    return {
      severity: "good",
      headline: "Confirmed, no change.",
      text: `The device acknowledged the command${took}. Its last report was ${to}, and it reports changes only.`,
    };
  }
  if (unchanged) {
    return {
      severity: "weak",
      headline: "Sent, no change.",
      text: `The device has reported ${to} before, and it reports changes only. So it said nothing, and nothing more can be proven.`,
    };
  }
  if (measured) {
    const text = `Another channel measures ${to}${took}.`;
    return { severity: "good", headline: "Confirmed, measured.", text };
  }
  if (targetStage === "confirmed") {
    const text = `The device ${acknowledged ? "acknowledged the command and " : ""}reports ${reported ?? to}${took}.`;
    return { severity: "good", headline: "Confirmed.", text };
  }
  if (targetStage === "acknowledged") {
    return {
      severity: "weak",
      headline: "Acknowledged.",
      text: `The device acknowledged the command${took}. It cannot report its state, so nothing more can be proven.`,
    };
  }
  return {
    severity: "weak",
    headline: "Sent, unproven.",
    text: `The broker has the command${took}. This device never answers, so it is unknown whether it acted.`,
  };
}
