/** `bold-relay history`: the last 24 hours of a channel, and one line to read to a caller. */
import type { Client, HistoryEntry, HistoryView } from "@bold-relay/api";
import { countsNumbers, formatDuration, kindOf, normalName } from "@bold-relay/core";
import { Command, Option } from "commander";
import { connectionOf } from "../connection.ts";
import { channelNames, trackWithTime, when } from "../describe.ts";
import { bold, faint, lit, printJson, printLine } from "../output.ts";
import { table } from "../table.ts";

export const historyCommand = new Command("history")
  .description("the last 24 hours of a channel, with one line to read to a caller")
  .argument("<words...>", "the channel by name or address")
  .option("--before <time>", "only entries before this moment, as the last line of a page names it")
  .addOption(new Option("--limit <n>", "number of entries, 1 to 500").default("50"))
  .addHelpText(
    "after",
    '\nExamples:\n  bold-relay history "porch lantern, finch"\n  bold-relay history alder-row/finch/porch --json',
  )
  .action(async (words: string[], { before, limit }: HistoryOptions, command: Command) => {
    const { client, json } = connectionOf(command);
    const { timeZone } = Intl.DateTimeFormat().resolvedOptions();
    const query = { zone: timeZone, ...(before && { before }), limit: Number(limit) };
    const day = await client.history(await addressOf(client, words.join(" ")), query);
    if (json) printJson(day);
    else printHistory(day);
  });

interface HistoryOptions {
  readonly before?: string;
  readonly limit: string;
}

function printHistory(day: HistoryView): void {
  printLine(bold(day.answer));
  if (day.entries.length === 0) return;
  printLine();
  printLine(table(["time", "what", "requested by", "progress"], day.entries.map(row)));
  if (!countsNumbers(kindOf(day.kind)))
    printLine(
      faint(
        `On for ${formatDuration(day.onMs)} in these ${formatDuration(Date.parse(day.at) - Date.parse(day.from))}.`,
      ),
    );
  if (day.older) printLine(faint(`Earlier entries: add --before ${day.older}`));
}

function row({ at, kind, is, on, by, command }: HistoryEntry): string[] {
  if (kind === "command") return [when.clockMs(at), `commanded: ${is}`, by, command ? trackWithTime(command) : ""];
  // What changed it stands beside the change: nobody requested that.
  return [when.clockMs(at), `became ${on ? lit(is) : is}${by === "" ? "" : faint(`, ${by}`)}`, "", ""];
}

/** @throws Error when no channel, or more than one, is called so */
async function addressOf(client: Client, text: string): Promise<string> {
  const channels = (await client.board()).sites.flatMap((site) => site.channels);
  const wanted = normalName(text);
  const found = channels.filter((channel) => channelNames(channel).includes(wanted));
  const [only] = found;
  if (only && found.length === 1) return only.address;
  if (!only) throw new Error(`No channel is called “${text}”. bold-relay state lists them all.`);
  throw new Error(`“${text}” can mean several: ${found.map(({ address }) => address).join(", ")}.`);
}
