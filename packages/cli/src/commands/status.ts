/** `bold-relay status`: is each part alive, and how many channels are not as told? */
import type { PartStatus } from "@bold-relay/api";
import { counted, countWords, formatAgo } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { EXIT } from "../exit.ts";
import { printJson, printLine, wrong } from "../output.ts";
import { table } from "../table.ts";

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
    const presence = countWords(counts.presence);
    const drifting = counts.drifting === 0 ? "no drift" : wrong(`${counts.drifting} in drift`);
    printLine();
    const devices = `${counted(counts.sites, "site")}, ${counted(counts.devices, "device")}`;
    printLine(
      counts.devices === 0 ? devices : `${devices}: ${counts.presence.offline > 0 ? wrong(presence) : presence}`,
    );
    printLine(`${counted(counts.channels, "channel")}: ${counts.on} on, ${counts.unknown} unknown, ${drifting}`);
    printLine(
      `Last 24 h: ${counted(lastDay.requests, "request")}, ${counted(lastDay.delivered, "command")} delivered, ` +
        `${lastDay.notDelivered} not delivered, ${counted(lastDay.refused, "request")} refused. Now ${counted(counts.openCommands, "open command")}`,
    );
  });

function partWords({ up, roundTripMs, trouble }: PartStatus): [string, string] {
  if (!up) return [wrong("down"), trouble ?? ""];
  return ["up", roundTripMs === null ? "" : `round trip ${roundTripMs.toFixed(1)} ms`];
}
