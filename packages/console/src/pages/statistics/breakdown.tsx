/** The same statistics for each day, sites, device or inlet, a row each; a bar tells how many, and how many of them did not get there. */
import type { GroupStatistics, StatisticsTable } from "@bold-relay/api";
import { formatDuration, fromFirstAsk, missedOf, percentText } from "@bold-relay/core";
import { Link } from "wouter";
import { useMay } from "../../api/session.ts";
import { ScrollRegion } from "../../parts/scroll-region.tsx";
import { when } from "../../parts/time.ts";

const NUMBER = "py-1.5 pl-2 text-right whitespace-nowrap tabular-nums";
const COLUMNS = ["Commands", "Delivered", "Not delivered", "Replaced", "Median", "95th percentile"];

export function Breakdown({ table, rows }: { table: StatisticsTable; rows: readonly GroupStatistics[] }) {
  const shown = table === "days" ? [...fromFirstAsk(rows)].reverse() : rows;
  const most = Math.max(1, ...shown.map(triedBy));
  if (shown.length === 0) return <p className="mt-2 text-note text-soft">No requests in this period.</p>;
  return (
    <ScrollRegion label={`Table of ${table}`}>
      <table className="w-full min-w-[860px] table-fixed border-collapse text-note max-md:min-w-[860px]">
        <colgroup>
          <col className="w-[240px] max-md:w-[150px]" />
          <col className="w-[88px]" />
          <col />
          {COLUMNS.map((title) => (
            <col key={title} className={title.length > 12 ? "w-[104px]" : "w-[76px]"} />
          ))}
        </colgroup>
        <thead>
          <tr className="border-hairline border-b text-soft">
            <th scope="col" className="py-1.5 text-left font-medium font-plate">
              <span className="sr-only">{table}</span>
            </th>
            <th scope="col" className={`${NUMBER} font-medium font-plate`}>
              Success rate
            </th>
            <th scope="col">
              <span className="sr-only">How many</span>
            </th>
            {COLUMNS.map((title) => (
              <th key={title} scope="col" className={`${NUMBER} font-medium font-plate`}>
                {title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.map((row) => (
            <Row key={row.key} table={table} row={row} most={most} />
          ))}
        </tbody>
      </table>
    </ScrollRegion>
  );
}

function Row({ table, row, most }: { table: StatisticsTable; row: GroupStatistics; most: number }) {
  const { key, commands, delivered, successRate, replaced, times } = row;
  const missed = missedOf(row);
  return (
    <tr className="border-hairline border-b" data-group={key}>
      <th scope="row" className="py-1.5 pr-4 text-left font-medium text-body">
        <Name table={table} row={row} />
      </th>
      <td className={`${NUMBER} font-semibold text-ink`}>{percentText(successRate)}</td>
      <td className="pl-5">
        <Bar delivered={delivered} missed={missed} most={most} />
      </td>
      <td className={NUMBER}>{commands}</td>
      <td className={NUMBER}>{delivered}</td>
      <td className={`${NUMBER} ${missed > 0 ? "font-semibold text-wrong" : "text-soft"}`}>{missed}</td>
      <td className={`${NUMBER} text-soft`}>{replaced}</td>
      <td className={NUMBER}>{times.whole ? formatDuration(times.whole.p50) : ""}</td>
      <td className={NUMBER}>{times.whole ? formatDuration(times.whole.p95) : ""}</td>
    </tr>
  );
}

function Name({ table, row: { key, name } }: { table: StatisticsTable; row: GroupStatistics }) {
  const mayBuild = useMay("build");
  if (table === "days") return when.weekday(key);
  if (table !== "devices" || !mayBuild) return name;
  return (
    <Link to={`/devices/${key}`} className="underline-offset-2 hover:text-act hover:underline">
      {name} <span className="font-normal text-note text-soft">{key.split("/")[0]}</span>
    </Link>
  );
}

/** As long as there were commands, beside the most of its table; what did not get there is hatched, not only red. */
function Bar({ delivered, missed, most }: { delivered: number; missed: number; most: number }) {
  const width = (count: number) => ({ width: `${(100 * count) / most}%`, minWidth: count > 0 ? 2 : 0 });
  return (
    <div className="flex h-3 w-full" aria-hidden="true">
      <span className="h-full bg-ink" style={width(delivered)} />
      <span className="figure-missed h-full" style={width(missed)} />
    </div>
  );
}

function triedBy(row: GroupStatistics): number {
  return row.delivered + missedOf(row);
}
