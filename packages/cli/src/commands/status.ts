/** `bold-relay status`: is each part alive, and how many channels are not as told? */
import type { PartStatus } from "@bold-relay/api";
import { formatAgo } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { EXIT } from "../exit.ts";
import { bold, printJson, printLine, table, wrong } from "../output.ts";

export const statusCommand = new Command("status")
  .description("state of the service, broker and database; counts of the last 24 hours")
  .addHelpText(
    "after",
    "\nExit code 1 when the broker or the database is down.\n\nExample:\n  bold-relay status --json",
  )
  .action(async (_options, command: Command) => {
    const { client, json } = connectionOf(command);
    const status = await client.status();
    const well = status.broker.up && status.database.up && status.missing.length === 0;
    process.exitCode = well ? EXIT.reached : EXIT.notReached;
    if (json) return printJson(status);
    const { counts, lastDay } = status;
    const since = formatAgo(Date.now() - Date.parse(status.startedAt));
    printLine(
      table(
        ["part", "is", ""],
        [
          [
            "service",
            "up",
            `version ${status.version}${status.build === null ? "" : ` (build ${status.build})`}, started ${since}`,
          ],
          ["broker", ...partWords(status.broker)],
          ["database", ...partWords(status.database)],
        ],
      ),
    );
    const absent = counts.devicesOffline === 0 ? "all online" : wrong(`${counts.devicesOffline} offline`);
    const drifting = counts.drifting === 0 ? "no drift" : wrong(`${counts.drifting} in drift`);
    printLine();
    printLine(`${bold(String(counts.sites))} sites, ${bold(String(counts.devices))} devices, ${absent}`);
    printLine(`${bold(String(counts.channels))} channels, ${counts.on} on, ${counts.unknown} unknown, ${drifting}`);
    printLine(
      `Last 24 h: ${bold(String(lastDay.requests))} requests, ${lastDay.delivered} commands delivered, ` +
        `${lastDay.notDelivered} not, ${lastDay.refused} requests refused; ${counts.openCommands} open now`,
    );
  });

function partWords({ up, roundTripMs, trouble }: PartStatus): [string, string] {
  if (!up) return [wrong("down"), trouble ?? ""];
  return ["up", roundTripMs === null ? "" : `round trip ${roundTripMs.toFixed(1)} ms`];
}
