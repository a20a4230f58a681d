/** What became of an arrival: who is not permitted, what was talked, asked, refused. Each becomes one answer. */
import type { RequestView } from "@bold-relay/api";
import { type ErrorCode, RelayError } from "@bold-relay/core";
import type { ArrivalEnd } from "../store/inlet-hours.ts";
import type { Talk } from "./arrival-reader.ts";

/** One for each ask: the request, or why it was refused. */
export type Settled = readonly PromiseSettledResult<RequestView>[];

export type Became =
  | { readonly became: "unknown-sender" }
  | { readonly became: "ignored" }
  | { readonly became: "talk"; readonly reading: Talk }
  | { readonly became: "asked"; readonly settled: Settled; readonly reply: string | null }
  /** On record as these requests. */
  | { readonly became: "not-understood"; readonly refusal: RelayError; readonly made: readonly string[] };

/** How it is counted. */
export function endOf(became: Became): ArrivalEnd {
  switch (became.became) {
    case "unknown-sender":
      return "unknownSenders";
    case "not-understood":
      return "notUnderstood";
    case "asked":
      return became.settled.some(({ status }) => status === "fulfilled") ? "asked" : endOfRefusal(reasonIn(became));
    case "ignored":
    case "talk":
      return "answered";
  }
}

/** Nothing of that name, or no words that are known: not understood. Everything else was, and is refused. */
export function endOfRefusal(reason: unknown): ArrivalEnd {
  const code = reason instanceof RelayError ? reason.code : "internal";
  return NOT_UNDERSTOOD.includes(code) ? "notUnderstood" : "refused";
}

const NOT_UNDERSTOOD: readonly ErrorCode[] = [
  "bad-json",
  "bad-request",
  "unknown-channel",
  "ambiguous-name",
  "wildcard-in-name",
  "not-understood",
  "no-route",
];

/**
 * Where nothing was taken, and not for what was asked, that is no answer: the caller must hear it, and try again.
 *
 * @returns the error; null: there is an answer
 */
export function troubleIn(became: Became): { readonly reason: unknown } | null {
  if (became.became !== "asked" || became.settled.some(({ status }) => status === "fulfilled")) return null;
  const found = became.settled.find((one) => one.status === "rejected" && !isAnswer(one.reason));
  return found?.status === "rejected" ? { reason: found.reason } : null;
}

/** Whether an error is about what was asked: not our own trouble, and not about who asks. */
function isAnswer(reason: unknown): boolean {
  return reason instanceof RelayError && reason.kind.status < 500 && reason.kind.status !== 401;
}

function reasonIn({ settled }: Extract<Became, { became: "asked" }>): unknown {
  const refused = settled.find((one) => one.status === "rejected");
  return refused?.status === "rejected" ? refused.reason : undefined;
}

/** The outcome of all of them in one word. */
export function outcomeOfAll(settled: Settled): string {
  const outcomes = new Set(settled.map((one) => (one.status === "fulfilled" ? one.value.outcome : "refused")));
  const [only] = outcomes;
  if (outcomes.size === 1 && only) return only;
  if (outcomes.has("open")) return "open";
  return outcomes.has("delivered") || outcomes.has("partly-delivered") ? "partly-delivered" : "not-delivered";
}
