/** Statistics: how well does it run? The share that reached its target stage and the times of each hop, by day, sites, device and inlet. */
import { queryText, STATISTICS_TABLES, type StatisticsTable, type StatisticsView } from "@bold-relay/api";
import { useStatistics } from "../../api/queries.ts";
import { PAGE, SectionTitle } from "../../parts/form.tsx";
import { when } from "../../parts/time.ts";
import { Breakdown } from "./breakdown.tsx";
import { type Period, PeriodBar, usePeriod } from "./period-bar.tsx";
import { Summary } from "./summary.tsx";

const TITLES: Record<StatisticsTable, string> = {
  days: "By day",
  sites: "By site",
  devices: "By device",
  inlets: "By inlet",
};

export function StatisticsPage() {
  const [period, change] = usePeriod();
  const { data: view, error } = useStatistics(period);
  return (
    <div className={PAGE}>
      <header className="flex flex-wrap items-baseline gap-x-4">
        <h1 className="text-page">Statistics</h1>
        {view && <p className="text-soft">{periodText(view)}</p>}
        <p className="ml-auto text-note max-md:ml-0">
          Export as CSV{" "}
          {STATISTICS_TABLES.map((table) => (
            <ExportLink key={table} table={table} period={period} />
          ))}
        </p>
      </header>
      <PeriodBar period={period} onChange={change} />
      {error && (
        <p role="alert" className="mt-4 border-wrong border-l-[3px] bg-wrong-wash px-3 py-2">
          {error.message}
        </p>
      )}
      {view && (
        <>
          {view.uncountedDays > 0 && (
            <p role="status" className="mt-4 border-soft border-l-[3px] px-3 text-soft">
              {view.uncountedDays === 1 ? "One day is" : `${view.uncountedDays} days are`} not counted yet: a request of
              that day is still open, or counting has not finished.
            </p>
          )}
          <Summary statistics={view.all} />
          {STATISTICS_TABLES.map((table) => (
            <section key={table} aria-label={TITLES[table]}>
              <SectionTitle>{TITLES[table]}</SectionTitle>
              <Breakdown table={table} rows={view[table]} />
            </section>
          ))}
        </>
      )}
    </div>
  );
}

function ExportLink({ table, period }: { table: StatisticsTable; period: Period }) {
  const query = queryText(period);
  return (
    <a
      href={`/api/v1/statistics.csv${query}${query === "" ? "?" : "&"}table=${table}`}
      download
      className="mr-2 text-act underline underline-offset-2"
    >
      {table}
    </a>
  );
}

/** “20 – 26 Nov 2026 (Europe/Lisbon)” */
function periodText({ from, to, zone }: StatisticsView): string {
  return `${when.days(from, to)} (${zone})`;
}
