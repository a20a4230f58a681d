/** `bold-relay map`: who or what can switch what, by which way, and what of it is unused or dangerous. */
import type { Client, MapFindingView, MapReachPageView, MapReachView, MapUseView, MapView } from "@bold-relay/api";
import { mapFindingWords, requestElement } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { when } from "../describe.ts";
import { bold, faint, printJson, printLine, printText, wrong } from "../output.ts";
import { table } from "../table.ts";
import { newestId } from "./trace.ts";

interface MapOptions {
  readonly site?: string;
  readonly csv?: true;
  readonly findings?: true;
  readonly request?: string;
}

export const mapCommand = new Command("map")
  .description("who or what can switch what, and by which way")
  .argument("[words...]", "a channel, group, scene, inlet, member or site, by name, address or identifier")
  .option("--site <site>", "only channels of this site")
  .option("--findings", "list what is unused, cannot act, or is open to more than you may think")
  .option("--request <id>", "what can be reached by the way that a request of the log came: its id, or “last”")
  .option("--csv", "print a table for a spreadsheet: a row for each channel that something reaches")
  .addHelpText(
    "after",
    `
Of a channel it lists everything that can switch it, when that last happened, and what stands in the way now.
Of an inlet, a route or a member it lists everything that they can reach.

Examples:
  bold-relay map "drive gate"
  bold-relay map finch-buttons
  bold-relay map Tomas
  bold-relay map --findings
  bold-relay map --site glasshouse --csv > map.csv`,
  )
  .action(async (words: string[], { site, csv, findings, request }: MapOptions, command: Command) => {
    const { client, json } = connectionOf(command);
    const named = request === undefined ? words.join(" ") : await elementOf(client, request);
    const of = named === "" ? {} : { of: named };
    const query = { ...of, ...(site === undefined ? {} : { site }) };
    if (csv) return printText(await client.mapTable(query));
    if (findings) {
      const all = await client.mapFindings(site === undefined ? {} : { site });
      if (json) for (const one of all) printJson(one);
      else printFindings(all);
      return;
    }
    const page = await client.mapReach(query);
    if (json) return printJson(page);
    if (named !== "") return printReach(page);
    printOverview(await client.map(query));
    printLine();
    printReach(page);
  });

async function elementOf(client: Client, request: string): Promise<string> {
  return requestElement(await client.trace(request === "last" ? await newestId(client) : request));
}

function printOverview({ columns }: MapView): void {
  const sum = (elements: readonly { count: number }[]) => elements.reduce((all, { count }) => all + count, 0);
  const { askers, catches, targets, channels } = columns;
  printLine(
    `${bold(String(sum(askers)))} can ask, ${bold(String(sum(catches)))} routes, rights and rules catch it, ` +
      `${bold(String(sum(channels)))} channels are reached, by ${bold(String(sum(targets)))} groups, scenes and others.`,
  );
}

function printReach({ of, channel, rows, moreRows, days, countedSince, hiddenInlets }: MapReachPageView): void {
  if (channel) {
    printLine(`${bold(channel.name)}  ${faint(channel.address)}`);
    printLine(faint(`Commands go to ${channel.topic}`));
    if (channel.obstacles.length === 0)
      printLine("No lock-out, no interlock and no offline device stands in the way now.");
    for (const text of channel.obstacles) printLine(wrong(text));
    printLine();
  } else if (of) {
    printLine(`${bold(of.name)}  ${faint(of.note)}`);
    printLine();
  }
  if (rows.length === 0) printLine("Nothing is reached.");
  else
    printLine(
      table(
        HEAD,
        rows.map((row) => rowOf(row, channel !== null)),
        [5],
      ),
    );
  if (moreRows > 0) printLine(faint(`And ${moreRows} more. Name an element or a site, or use --csv.`));
  for (const { way, ...use } of channel?.others ?? [])
    printLine(faint(`Also in ${days} days: ${way}, ${use.count} times, last ${lastText(use)}.`));
  if (hiddenInlets > 0)
    printLine(
      faint(`${hiddenInlets} more inlets reach this. They belong to the whole team: ask an engineer of the team.`),
    );
  printLine(faint(`Uses are of ${days} days. They are counted since ${when.dateTime(countedSince)}.`));
}

const HEAD = ["requested by", "caught by", "action", "reaches", "last used", "uses"];

function rowOf(row: MapReachView, ofChannel: boolean): string[] {
  const { caught, action, used } = row;
  const paused = caught.paused ? wrong(" paused") : "";
  return [
    askersText(row),
    `${caught.name}${paused}${caught.note === "" || caught.kind === "right" ? "" : faint(` ${caught.note}`)}`,
    action ?? faint("as asked"),
    reachText(row, ofChannel),
    used === null ? "" : lastText(used),
    used === null ? "" : String(used.count),
  ];
}

/** So many stand in a cell. */
const MOST_NAMED = 3;

function askersText({ askers, moreAskers }: MapReachView): string {
  if (askers.length === 0) return wrong("nobody");
  const named = askers.slice(0, MOST_NAMED).map(({ name, anybody }) => (anybody ? wrong(name) : name));
  const more = askers.length + moreAskers - named.length;
  return `${named.join(", ")}${more > 0 ? ` and ${more} more` : ""}`;
}

function reachText({ target, channels, moreChannels }: MapReachView, ofChannel: boolean): string {
  const count = channels.length + moreChannels;
  if (target.kind === "channel") return ofChannel ? "" : (channels[0]?.name ?? "");
  return `${target.name}${ofChannel ? "" : faint(` ${count} ${count === 1 ? "channel" : "channels"}`)}`;
}

function lastText({ lastAt, lastBy }: MapUseView): string {
  if (lastAt === null) return faint("none counted");
  return `${when.clock(lastAt)}${lastBy === "" ? "" : faint(` by ${lastBy}`)}`;
}

function printFindings(all: readonly MapFindingView[]): void {
  if (all.length === 0) return printLine("No problems found on the map.");
  printLine(
    table(
      ["finding", "element", ""],
      all.map(({ kind, name, text }) => [mapFindingWords[kind], name, text]),
    ),
  );
}
