/** The report of a soak, as Markdown. */
import type { Account, CommandClaim } from "./account.ts";
import type { Answered } from "./askers.ts";
import type { Zeros } from "./judge.ts";

export interface SoakFacts {
  readonly minutes: number;
  readonly seed: number;
  readonly askers: number;
  readonly instances: number;
  readonly shards: number;
  readonly starts: number;
  readonly faults: Readonly<Record<string, number>>;
  readonly answered: Answered;
  readonly account: Account;
  readonly zeros: Zeros;
  /** How often somebody tried what is not theirs. */
  readonly hostile: number;
}

export function reportOf(facts: SoakFacts): string {
  const { minutes, seed, askers, instances, shards, starts, faults, answered, account, zeros, hostile } = facts;
  const statistics = (all: Readonly<Record<string, number>>) =>
    Object.entries(all)
      .sort((one, other) => other[1] - one[1])
      .map(([name, count]) => `| ${name} | ${count} |`);
  return [
    `\`npm run soak -- --minutes ${minutes} --seed ${seed} --instances ${instances} --shards ${shards}\``,
    "",
    "| must be 0 | |",
    "|---|---|",
    ...zeros.map(([name, found]) => `| ${name} | **${found.length}** |`),
    "",
    `${askers} askers made ${answered.asked} calls: ${answered.accepted.size} requests accepted, ${answered.refused.size} refused, ` +
      `${account.commands.length} commands ended. ${instances} instance${instances === 1 ? "" : "s"} of the service stood behind a balancer${shards === 1 ? "" : ` and shared ${shards} shards`}; they were started ${starts} times.`,
    "",
    `Hostile askers and a hostile device user tried ${hostile} times what is not theirs.`,
    "",
    "| what went wrong | times |",
    "|---|---|",
    ...statistics(faults),
    "",
    "| how commands ended | |",
    "|---|---|",
    ...statistics(countEnds(account.commands)),
    "",
    "| calls made again, because of | |",
    "|---|---|",
    ...statistics(answered.again),
    "",
  ].join("\n");
}

function countEnds(commands: readonly CommandClaim[]): Record<string, number> {
  const ends: Record<string, number> = {};
  for (const { ended, reason } of commands) {
    const name = reason === null ? ended : `${ended}: ${reason}`;
    ends[name] = (ends[name] ?? 0) + 1;
  }
  return ends;
}
