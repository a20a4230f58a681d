/** The report of a soak, as Markdown. */
import type { Answered } from "./askers.ts";
import type { Judgement } from "./judge.ts";

export interface SoakFacts {
  readonly minutes: number;
  readonly seed: number;
  readonly askers: number;
  readonly instances: number;
  readonly starts: number;
  readonly faults: Readonly<Record<string, number>>;
  readonly answered: Answered;
  readonly judgement: Judgement;
  /** Channels that the board shows otherwise than their device is, after everything was mended. */
  readonly misshown: readonly string[];
  /** How often somebody tried what is not theirs, and what of it was done. */
  readonly hostile: number;
  readonly unlawful: readonly string[];
}

/** The name of each zero, with what stands behind it where it is none. */
export function zerosOf({ judgement, misshown, unlawful }: SoakFacts): [string, readonly string[]][] {
  return [
    ["accepted requests lost", judgement.lost],
    ["accepted commands without an end", judgement.unended],
    ["sent twice where once was promised", judgement.twice],
    ["wrong claims", judgement.wrong],
    ["refusals that are not in the journal", judgement.unkept],
    ["deadlines that were not carried out", judgement.overdue],
    ["channels shown otherwise than they are", misshown],
    ["things done without the right", unlawful],
  ];
}

export function reportOf(facts: SoakFacts): string {
  const { minutes, seed, askers, instances, starts, faults, answered, judgement, hostile } = facts;
  const figures = (all: Readonly<Record<string, number>>) =>
    Object.entries(all)
      .sort((one, other) => other[1] - one[1])
      .map(([name, count]) => `| ${name} | ${count} |`);
  return [
    `\`npm run soak -- --minutes ${minutes} --seed ${seed} --instances ${instances}\``,
    "",
    "| must be 0 | |",
    "|---|---|",
    ...zerosOf(facts).map(([name, found]) => `| ${name} | **${found.length}** |`),
    "",
    `${askers} askers made ${answered.asked} calls: ${answered.accepted.size} requests accepted, ${answered.refused.size} refused, ` +
      `${judgement.commands} commands ended. ${instances} instance${instances === 1 ? "" : "s"} of the service stood behind a balancer; they were started ${starts} times.`,
    "",
    `Hostile askers and a hostile device user tried ${hostile} times what is not theirs.`,
    "",
    "| what went wrong | times |",
    "|---|---|",
    ...figures(faults),
    "",
    "| how commands ended | |",
    "|---|---|",
    ...figures(judgement.ends),
    "",
    "| calls made again, because of | |",
    "|---|---|",
    ...figures(answered.again),
    "",
  ].join("\n");
}
