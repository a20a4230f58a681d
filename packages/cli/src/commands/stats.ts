/** `bold-relay stats`: how well it runs, by day, sites, device or inlet. */
import type { StatisticsQuery, StatisticsTable, StatisticsView } from "@bold-relay/api";
import { type DeliveryStatistics, formatDuration, fromFirstAsk, missedOf, percentText } from "@bold-relay/core";
import { Command, InvalidArgumentError, Option } from "commander";
import { connectionOf } from "../connection.ts";
import { bold, faint, printJson, printLine, wrong } from "../output.ts";
import { table } from "../table.ts";

interface StatsOptions extends StatisticsQuery {
  readonly by: keyof typeof TABLE;
}

const TABLE = { day: "days", site: "sites", device: "devices", inlet: "inlets" } as const satisfies Record<
  string,
  StatisticsTable
>;

export const statsCommand = new Command("stats")
  .description("success rate, counts and times over a period")
  .addOption(new Option("--days <n>", "number of days up to today or --to (default: 7)").argParser(wholeDays))
  .addOption(new Option("--from <day>", "the first day, like 2026-11-01").conflicts("days"))
  .option("--to <day>", "the last day (default: today)")
  .option("--site <site>", "only this site")
  .addOption(new Option("--by <what>", "a row for each").choices(Object.keys(TABLE)).default("day"))
  .addHelpText(
    "after",
    `
Replaced commands do not count in the success rate: nothing shows whether they would have been delivered.

Examples:
  bold-relay stats
  bold-relay stats --days 30 --by device
  bold-relay stats --from 2026-11-01 --to 2026-11-30 --site alder-row`,
  )
  .action(async ({ by, ...query }: StatsOptions, command: Command) => {
    const { client, json } = connectionOf(command);
    const view = await client.statistics(query);
    if (json) return printJson(view);
    printSummary(view, query.site);
    printLine();
    const rows = by === "day" ? fromFirstAsk(view.days) : view[TABLE[by]];
    if (rows.length === 0) return printLine(`No ${by} had a command in these days.`);
    const head = [
      by,
      "commands",
      "delivered",
      "success rate",
      "not delivered",
      "replaced",
      "median",
      "95th percentile",
      "",
    ];
    printLine(
      table(
        head,
        rows.map((one) => [...row(one.name, one), by === "device" ? faint(one.key) : ""]),
        [1, 2, 3, 4, 5, 6, 7],
      ),
    );
  });

function printSummary({ all, from, to, zone, uncountedDays }: StatisticsView, site: string | undefined): void {
  const { commands, delivered, replaced, proven, refused, notUnderstood, times } = all;
  const days = from === to ? from : `${from} to ${to}`;
  printLine(`${bold(days)} ${faint(`(${zone})`)}${site === undefined ? "" : `, ${site}`}`);
  printLine(
    `${bold(percentText(all.successRate))} of commands delivered: ${delivered} of ${commands - replaced} commands` +
      `${missedText(all)}${replaced === 0 ? "" : `; ${replaced} more ${replaced === 1 ? "was replaced by a newer one" : "were replaced by newer ones"}`}.`,
  );
  printLine(
    `By stage: ${proven.confirmed} confirmed${proven.measured > 0 ? `, ${proven.measured} confirmed by a measurement` : ""}, ${proven.acknowledged} acknowledged, ${proven.published} sent only. ` +
      `Requests refused: ${refused}, not understood: ${notUnderstood}.`,
  );
  if (times.whole) {
    printLine(faint(`median          ${hopsText(all, "p50")}   in all ${formatDuration(times.whole.p50)}`));
    printLine(faint(`95th percentile ${hopsText(all, "p95")}   in all ${formatDuration(times.whole.p95)}`));
  }
  if (uncountedDays > 0)
    printLine(
      wrong(
        `${uncountedDays} of these days are not counted yet: a request is still open, or counting has not finished.`,
      ),
    );
}

/** ", 2 unanswered, 1 failed" */
function missedText({ missed }: DeliveryStatistics): string {
  const told = Object.entries(missed).filter(([, count]) => count > 0);
  return told.map(([end, count]) => `, ${wrong(`${count} ${end}`)}`).join("");
}

/** ●──2.1 ms──●──9 ms──●──13 ms──● */
function hopsText({ times }: DeliveryStatistics, which: "p50" | "p95"): string {
  const hops = [times.published, times.acknowledged, times.confirmed];
  return `●${hops.map((hop) => `──${hop === null ? "" : `${formatDuration(hop[which])}──`}${hop === null ? "○" : "●"}`).join("")}`;
}

function row(
  name: string,
  { commands, delivered, successRate, replaced, missed, times }: DeliveryStatistics,
): string[] {
  const not = missedOf({ missed });
  const whole = (which: "p50" | "p95") => (times.whole === null ? "" : formatDuration(times.whole[which]));
  const count = (one: number) => (one === 0 ? faint("0") : String(one));
  return [
    name,
    count(commands),
    count(delivered),
    percentText(successRate),
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
