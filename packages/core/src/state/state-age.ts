/** How far the last word on a channel's state still counts: whether it is known to be so now, and when it was last heard. Pure. */

/**
 * Why a state is shown as old:
 * - offline: its device, or what sees it, is off the broker
 * - unheard: nothing was heard of it since the service connected to the broker
 * - retained: only a retained message was, and nobody knows its age
 * - silent: it reports regularly, and has not for three times as long
 * - unproven: a command was sent since, and ended without proof
 * - unreadable: it was reported since, in a form that cannot be read
 * - contradicted: what sees it tells two things at once
 */
export const STALE_WHYS = [
  "offline",
  "unheard",
  "retained",
  "silent",
  "unproven",
  "unreadable",
  "contradicted",
] as const;
export type StaleWhy = (typeof STALE_WHYS)[number];

/** Why the last readable report does not count although nothing was missed. */
export type StateDoubt = Extract<StaleWhy, "unproven" | "unreadable" | "contradicted">;

export interface StateAge {
  /** null: it is so now, as far as its device tells. */
  readonly stale: StaleWhy | null;
  /** When it was last heard to be so, ms since 1970; null: nobody knows. */
  readonly asOf: number | null;
}

export interface StateAgeFacts {
  /** Whether whoever tells the state is on the broker, by its own word; null: it does not say. */
  readonly online: boolean | null;
  /** What was heard last since the link and the device stood; null: nothing. */
  readonly heard: { readonly live: boolean } | null;
  /** What has put the last word in doubt since; null: nothing. */
  readonly doubt: StateDoubt | null;
  /** When it was last heard live, ms since 1970; null: never. */
  readonly liveAt: number | null;
  /** How often it reports at least, ms; null: when something changes. */
  readonly reportsEveryMs: number | null;
  readonly now: number;
}

/** How many reports may be missing before a channel counts as silent. */
const MISSING = 3;

export function stateAgeOf({ online, heard, doubt, liveAt, reportsEveryMs, now }: StateAgeFacts): StateAge {
  if (online === false) return { stale: "offline", asOf: liveAt };
  if (doubt !== null) return { stale: doubt, asOf: liveAt };
  if (heard === null) return { stale: "unheard", asOf: liveAt };
  if (!heard.live) return { stale: "retained", asOf: null };
  const silent = reportsEveryMs !== null && liveAt !== null && now - liveAt > MISSING * reportsEveryMs;
  return { stale: silent ? "silent" : null, asOf: liveAt };
}

const DOUBTS: Readonly<Record<StateDoubt, string>> = {
  unproven: "last command unproven",
  unreadable: "last report unreadable",
  contradicted: "both end contacts made",
};

/**
 * @param age "5 min ago"; null: nobody knows
 * @example staleWords("offline", "5 min ago") // → "offline, last seen so 5 min ago"
 */
export function staleWords(stale: StaleWhy, age: string | null): string {
  switch (stale) {
    case "offline":
      return age === null ? "offline, age unknown" : `offline, last seen so ${age}`;
    case "unheard":
      return age === null ? "not heard since the start" : `not heard again since ${age}`;
    case "retained":
      return "retained, age unknown";
    case "unproven":
    case "unreadable":
    case "contradicted":
      return `not known now, ${DOUBTS[stale]}${age === null ? "" : `, reported ${age}`}`;
    case "silent":
      return age === null ? "no report any more" : `no report since ${age}`;
  }
}
