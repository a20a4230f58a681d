/** `bold-relay cluster`: the instances that run beside each other, which of them leads, and what to look at. */
import { setTimeout as pause } from "node:timers/promises";
import type { Client, ClusterView, InstanceView, ShardView } from "@bold-relay/api";
import { formatAgo, formatDuration } from "@bold-relay/core";
import { Command, InvalidArgumentError } from "commander";
import { connectionOf } from "../connection.ts";
import { when } from "../describe.ts";
import { bold, faint, printJson, printLine, wrong } from "../output.ts";
import { table } from "../table.ts";

export const clusterCommand = new Command("cluster")
  .description("the instances that run beside each other, and which of them leads what")
  .addHelpText(
    "after",
    `
Examples:
  bold-relay cluster
  bold-relay cluster lead east               hand the lead over, before you work on the machine that leads
  bold-relay cluster shards 6                spread the sites over six shards, which the instances share
  bold-relay cluster lead east --shard 3     let east lead shard 3 for as long as it can
  bold-relay cluster lead --any --shard 3    let any instance lead it
  bold-relay cluster move alder-row 3        move a site to shard 3`,
  );

clusterCommand
  .command("list", { isDefault: true })
  .description("list instances, shards and problems; exit code 1 while there is a problem")
  .action(async (_options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const cluster = await client.cluster();
    if (json) printJson(cluster);
    else printCluster(cluster);
    process.exitCode = cluster.findings.length === 0 ? 0 : 1;
  });

interface LeadOptions {
  readonly shard?: number;
  readonly any?: true;
}

clusterCommand
  .command("lead [instance]")
  .description("hand the lead over to another instance; requests wait meanwhile")
  .option(
    "--shard <number>",
    "of this shard, for as long as the instance runs; needed where there are several",
    wholeNumber,
  )
  .option("--any", "any instance may lead the shard again")
  .action(async (instance: string | undefined, { shard, any }: LeadOptions, command: Command) => {
    const { client, json } = connectionOf(command);
    if ((instance === undefined) === (any === undefined)) command.error("error: name an instance, or --any");
    const startedAt = performance.now();
    await client.handOverLead(instance ?? null, shard);
    if (instance === undefined) return printLine(`Any instance may lead shard ${shard} again.`);
    const isThere = ({ shards }: ClusterView) => shards.find((one) => one.shard === (shard ?? 0))?.leader === instance;
    const cluster = await until(client, isThere);
    if (json) return printJson(cluster);
    const what = shard === undefined ? "" : ` shard ${shard}`;
    if (isThere(cluster))
      return printLine(`${bold(instance)} leads${what}, ${formatDuration(performance.now() - startedAt)} later.`);
    process.exitCode = 1;
    printLine(wrong(`${instance} did not take the lead within ${formatDuration(LEADS_WITHIN_MS)}.`));
  });

clusterCommand
  .command("shards")
  .argument("<count>", "how many", wholeNumber)
  .description(
    "change the number of shards, 1 to 256; sites stay where they are, new ones go to the shard with the fewest",
  )
  .action(async (wanted: number, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    await client.changeShardCount(wanted);
    const isLed = ({ shards }: ClusterView) =>
      shards.length === wanted && shards.every(({ leader }) => leader !== null);
    const cluster = await until(client, isLed);
    if (json) return printJson(cluster);
    if (isLed(cluster)) return printLine(`There ${wanted === 1 ? "is 1 shard" : `are ${wanted} shards`} now.`);
    process.exitCode = 1;
    printLine(
      wrong(`Not every shard has a leader after ${formatDuration(LEADS_WITHIN_MS)}. Look at bold-relay cluster.`),
    );
  });

clusterCommand
  .command("move")
  .argument("<site>", "its identifier")
  .argument("<shard>", "the number of the shard", wholeNumber)
  .description("move a site to another shard; what is asked meanwhile waits")
  .action(async (site: string, shard: number, _options: object, command: Command) => {
    const { client } = connectionOf(command);
    const startedAt = performance.now();
    await client.moveSite(site, shard);
    printLine(`${bold(site)} is in shard ${shard}, ${formatDuration(performance.now() - startedAt)} later.`);
  });

function wholeNumber(text: string): number {
  if (!/^\d{1,3}$/.test(text)) throw new InvalidArgumentError("A whole number, such as 3.");
  return Number(text);
}

const LEADS_WITHIN_MS = 15_000;
const LOOK_EVERY_MS = 200;

async function until(client: Client, isSo: (cluster: ClusterView) => boolean): Promise<ClusterView> {
  const end = performance.now() + LEADS_WITHIN_MS;
  for (;;) {
    const cluster = await client.cluster();
    if (isSo(cluster) || performance.now() > end) return cluster;
    await pause(LOOK_EVERY_MS);
  }
}

function printCluster({ leader, since, shards, instances, findings }: ClusterView): void {
  const head = ["instance", "address", "version", "started", "last seen", "clock", "memory", "cpu", ""];
  printLine(table(head, instances.map(row), [6, 7]));
  printLine();
  if (shards.length > 1) {
    printLine(table(["shard", "leader", "since", "chosen", "sites"], shards.map(shardRow), [0]));
    printLine();
  } else if (leader !== null) printLine(`${bold(leader)} leads since ${when.dateTime(since)}.`);
  if (findings.length === 0) printLine(faint("No problems found."));
  for (const text of findings) printLine(wrong(text));
}

function shardRow({ shard, leader, since, chosen, sites }: ShardView): string[] {
  const [names, more] = [sites.slice(0, 5).join(", "), sites.length - 5];
  return [
    String(shard),
    leader === null ? wrong("none") : bold(leader),
    leader === null ? "" : when.dateTime(since),
    chosen ?? "",
    more > 0 ? `${names} and ${more} more` : names,
  ];
}

function row({ name, address, version, build, startedAt, seenMs, alive, leads, ...one }: InstanceView): string[] {
  const { aheadMs, residentMb, cpu, shards } = one;
  return [
    bold(name),
    address,
    build === null ? version : `${version} (build ${build})`,
    when.dateTime(startedAt),
    alive ? formatAgo(seenMs) : wrong(formatAgo(seenMs)),
    `${aheadMs < 0 ? "-" : "+"}${formatDuration(Math.abs(aheadMs))}`,
    `${residentMb} MB`,
    `${Math.round(cpu * 100)} %`,
    leads ? `leads${shards.length > 1 ? ` ${shards.length} shards` : ""}` : alive ? "stands by" : wrong("not seen"),
  ];
}
