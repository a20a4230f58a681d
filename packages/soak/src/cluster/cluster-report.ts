/** The report of a cluster test, as Markdown. */
import type { Answered } from "../askers.ts";
import type { Zeros } from "../judge.ts";
import type { Gaps } from "./probers.ts";

export interface LossResult {
  readonly name: string;
  /** Accepted meanwhile. */
  readonly requests: number;
  readonly gaps: Gaps;
  /** What was found wrong after it, and not before. */
  readonly found: Zeros;
}

/** In the order of the judge. */
const SHOWN = ["accepted requests lost", "sent twice where once was promised", "wrong claims"];

/** A time as people read it; "–": there is none. */
export function seconds(ms: number | null): string {
  return ms === null ? "–" : `${(ms / 1000).toFixed(1)} s`;
}

export function clusterReport(results: readonly LossResult[], answered: Answered): string {
  const rows = results.map(({ name, requests, gaps, found }) => {
    const count = (isIt: (zero: string) => boolean) =>
      found.filter(([zero]) => isIt(zero)).reduce((sum, [, all]) => sum + all.length, 0);
    const cells = [...SHOWN.map((one) => count((zero) => zero === one)), count((zero) => !SHOWN.includes(zero))];
    return `| ${name} | ${requests} | ${cells.join(" | ")} | ${seconds(gaps.moved)} | ${seconds(gaps.others)} |`;
  });
  return [
    "| lost or broken | requests accepted | lost | sent twice | wrong claims | other | longest time without a switch: shards that changed their leader | other shards |",
    "|---|---:|---:|---:|---:|---:|---:|---:|",
    ...rows,
    "",
    `${answered.accepted.size} requests were accepted and ${answered.refused.size} refused. Calls made again, because of: ${
      Object.entries(answered.again)
        .map(([why, count]) => `${why} ${count}`)
        .join(", ") || "nothing"
    }.`,
    "",
  ].join("\n");
}
