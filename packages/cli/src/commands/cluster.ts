/** `bold-relay cluster`: the instances that run beside each other, which of them leads, and what to look at. */
import { setTimeout as pause } from "node:timers/promises";
import type { Client, ClusterView, InstanceView } from "@bold-relay/api";
import { formatAgo, formatDuration } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { when } from "../describe.ts";
import { bold, faint, printJson, printLine, table, wrong } from "../output.ts";

export const clusterCommand = new Command("cluster")
  .description("the instances that run beside each other, and which of them leads; exits 1 while there is a problem")
  .addHelpText(
    "after",
    `
Examples:
  bold-relay cluster
  bold-relay cluster lead east         hand the lead over, before you work on the machine that leads`,
  )
  .action(async (_options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const cluster = await client.cluster();
    if (json) printJson(cluster);
    else printCluster(cluster);
    process.exitCode = cluster.findings.length === 0 ? 0 : 1;
  });

clusterCommand
  .command("lead <instance>")
  .description("hand the lead over to another instance; requests wait meanwhile")
  .action(async (instance: string, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const startedAt = performance.now();
    await client.handOverLead(instance);
    const cluster = await untilLeads(client, instance);
    if (json) return printJson(cluster);
    if (cluster.leader === instance)
      return printLine(`${bold(instance)} leads, ${formatDuration(performance.now() - startedAt)} later.`);
    process.exitCode = 1;
    printLine(wrong(`${instance} did not take the lead within ${formatDuration(LEADS_WITHIN_MS)}.`));
  });

const LEADS_WITHIN_MS = 15_000;
const LOOK_EVERY_MS = 200;

async function untilLeads(client: Client, instance: string): Promise<ClusterView> {
  const end = performance.now() + LEADS_WITHIN_MS;
  for (;;) {
    const cluster = await client.cluster();
    if (cluster.leader === instance || performance.now() > end) return cluster;
    await pause(LOOK_EVERY_MS);
  }
}

function printCluster({ leader, since, instances, findings }: ClusterView): void {
  const head = ["instance", "address", "version", "started", "last seen", "clock", "memory", "cpu", ""];
  printLine(table(head, instances.map(row), [6, 7]));
  printLine();
  if (leader !== null) printLine(`${bold(leader)} leads since ${when.dateTime(since)}.`);
  if (findings.length === 0) printLine(faint("No problems found."));
  for (const text of findings) printLine(wrong(text));
}

function row({ name, address, version, build, startedAt, seenMs, alive, leads, ...one }: InstanceView): string[] {
  const { aheadMs, residentMb, cpu } = one;
  return [
    bold(name),
    address,
    build === null ? version : `${version} (build ${build})`,
    when.dateTime(startedAt),
    alive ? formatAgo(seenMs) : wrong(formatAgo(seenMs)),
    `${aheadMs < 0 ? "-" : "+"}${formatDuration(Math.abs(aheadMs))}`,
    `${residentMb} MB`,
    `${Math.round(cpu * 100)} %`,
    leads ? "leads" : alive ? "stands by" : wrong("not seen"),
  ];
}
