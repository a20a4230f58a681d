/** The report of a cluster test, as Markdown. */
import type { Answered } from "../askers.ts";
import type { Zeros } from "../judge.ts";

export interface LossResult {
  readonly name: string;
  /** Accepted meanwhile. */
  readonly requests: number;
  /** The longest time without a confirmed switch of one lamp, ms. */
  readonly gapMs: number;
  /** What was found wrong after it, and not before. */
  readonly found: Zeros;
}

/** In the order of the judge. */
const SHOWN = ["accepted requests lost", "sent twice where once was promised", "wrong claims"];

export function clusterReport(results: readonly LossResult[], answered: Answered): string {
  const rows = results.map(({ name, requests, gapMs, found }) => {
    const count = (isIt: (zero: string) => boolean) =>
      found.filter(([zero]) => isIt(zero)).reduce((sum, [, all]) => sum + all.length, 0);
    const cells = [...SHOWN.map((one) => count((zero) => zero === one)), count((zero) => !SHOWN.includes(zero))];
    return `| ${name} | ${requests} | ${cells.join(" | ")} | ${(gapMs / 1000).toFixed(1)} s |`;
  });
  return [
    "| lost or broken | requests accepted | lost | sent twice | wrong claims | other | longest time without a switch |",
    "|---|---|---|---|---|---|---|",
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
