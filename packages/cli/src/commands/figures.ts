/** `bold-relay figures`: how well it runs, by day, premises, device or inlet. */
import type { FiguresQuery, FiguresView, FigureTable } from "@bold-relay/api";
import { type Figures, formatDuration, fromFirstAsk, missedOf, percentText } from "@bold-relay/core";
import { Command, InvalidArgumentError, Option } from "commander";
import { connectionOf } from "../connection.ts";
import { bold, faint, printJson, printLine, table, wrong } from "../output.ts";

interface FiguresOptions extends FiguresQuery {
  readonly by: keyof typeof TABLE;
}

const TABLE = { day: "days", site: "sites", device: "devices", inlet: "inlets" } as const satisfies Record<
  string,
  FigureTable
>;

export const figuresCommand = new Command("figures")
  .description("how well it runs: what share reached its aim, and how long each hop took")
  .addOption(new Option("--days <n>", "this many days, up to today or --to (default: 7)").argParser(wholeDays))
  .addOption(new Option("--from <day>", "the first day, like 2026-11-01").conflicts("days"))
  .option("--to <day>", "the last day (default: today)")
  .option("--site <site>", "only this premises")
  .addOption(new Option("--by <what>", "a row for each").choices(Object.keys(TABLE)).default("day"))
  .addHelpText(
    "after",
    `
Of commands that a newer one replaced nobody can say whether they would have arrived: they are left out of the share.

Examples:
  bold-relay figures
  bold-relay figures --days 30 --by device
  bold-relay figures --from 2026-11-01 --to 2026-11-30 --site alder-row`,
  )
  .action(async ({ by, ...query }: FiguresOptions, command: Command) => {
    const { client, json } = connectionOf(command);
    const view = await client.figures(query);
    if (json) return printJson(view);
    printSummary(view, query.site);
    printLine();
    const rows = by === "day" ? fromFirstAsk(view.days) : view[TABLE[by]];
    if (rows.length === 0) return printLine(`No ${by} had a command in these days.`);
    const head = [by, "commands", "reached", "share", "not", "replaced", "half in", "19 of 20 in", ""];
    printLine(
      table(
        head,
        rows.map((one) => [...row(one.name, one), by === "device" ? faint(one.key) : ""]),
        [1, 2, 3, 4, 5, 6, 7],
      ),
    );
  });

function printSummary({ all, from, to, zone, uncountedDays }: FiguresView, site: string | undefined): void {
  const { commands, reached, replaced, proven, refused, unmatched, times } = all;
  const days = from === to ? from : `${from} to ${to}`;
  printLine(`${bold(days)} ${faint(`(${zone})`)}${site === undefined ? "" : `, ${site}`}`);
  printLine(
    `${bold(percentText(all.share))} reached their aim: ${reached} of ${commands - replaced} commands` +
      `${missedText(all)}${replaced === 0 ? "" : `; ${replaced} more ${replaced === 1 ? "was replaced by a newer one" : "were replaced by newer ones"}`}.`,
  );
  printLine(
    `Proven: ${proven.confirmed} confirmed${proven.measured > 0 ? `, ${proven.measured} confirmed by a measurement` : ""}, ${proven.acknowledged} acknowledged, ${proven.published} sent only. ` +
      `Requests refused: ${refused}, not understood: ${unmatched}.`,
  );
  if (times.whole) {
    printLine(faint(`half of all   ${hopsText(all, "p50")}   in all ${formatDuration(times.whole.p50)}`));
    printLine(faint(`19 of 20      ${hopsText(all, "p95")}   in all ${formatDuration(times.whole.p95)}`));
  }
  if (uncountedDays > 0)
    printLine(
      wrong(`${uncountedDays} of these days are not counted so far, or something that was asked then is still open.`),
    );
}

/** ", 2 unanswered, 1 failed" */
function missedText({ missed }: Figures): string {
  const told = Object.entries(missed).filter(([, count]) => count > 0);
  return told.map(([end, count]) => `, ${wrong(`${count} ${end}`)}`).join("");
}

/** ●──2.1 ms──●──9 ms──●──13 ms──● */
function hopsText({ times }: Figures, which: "p50" | "p95"): string {
  const hops = [times.published, times.acknowledged, times.confirmed];
  return `●${hops.map((hop) => `──${hop === null ? "" : `${formatDuration(hop[which])}──`}${hop === null ? "○" : "●"}`).join("")}`;
}

function row(name: string, { commands, reached, share, replaced, missed, times }: Figures): string[] {
  const not = missedOf({ missed });
  const whole = (which: "p50" | "p95") => (times.whole === null ? "" : formatDuration(times.whole[which]));
  const count = (one: number) => (one === 0 ? faint("0") : String(one));
  return [
    name,
    count(commands),
    count(reached),
    percentText(share),
    not === 0 ? count(0) : wrong(String(not)),
    count(replaced),
    whole("p50"),
    whole("p95"),
  ];
}

function wholeDays(text: string): number {
  const days = Number(text);
  if (!Number.isInteger(days) || days < 1 || days > 400)
    throw new InvalidArgumentError("A whole number from 1 to 400.");
  return days;
}
