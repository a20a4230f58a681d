/** Figures: how well does it run? The share that reached its aim and the times of each hop, by day, premises, device and inlet. */
import { FIGURE_TABLES, type FiguresView, type FigureTable, queryText } from "@bold-relay/api";
import { useFigures } from "../../api/queries.ts";
import { SectionTitle } from "../../parts/form.tsx";
import { Breakdown } from "./breakdown.tsx";
import { type Period, PeriodBar, usePeriod } from "./period-bar.tsx";
import { Summary } from "./summary.tsx";

const TITLES: Record<FigureTable, string> = {
  days: "By day",
  sites: "By premises",
  devices: "By device",
  inlets: "By inlet",
};

export function FiguresPage() {
  const [period, change] = usePeriod();
  const { data: view, error } = useFigures(period);
  return (
    <div className="max-w-[1120px] px-5 pt-5 pb-10 max-md:px-3 max-md:pt-3">
      <header className="flex flex-wrap items-baseline gap-x-4">
        <h1 className="text-page">Figures</h1>
        {view && <p className="text-soft">{periodText(view)}</p>}
        <p className="ml-auto text-note max-md:ml-0">
          Export as CSV{" "}
          {FIGURE_TABLES.map((table) => (
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
              {view.uncountedDays === 1 ? "One of these days is" : `${view.uncountedDays} of these days are`} not
              counted so far, for something that was asked then is still open, or the count is on its way.
            </p>
          )}
          <Summary figures={view.all} />
          {FIGURE_TABLES.map((table) => (
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

function ExportLink({ table, period }: { table: FigureTable; period: Period }) {
  const query = queryText(period);
  return (
    <a
      href={`/api/v1/figures.csv${query}${query === "" ? "?" : "&"}table=${table}`}
      download
      className="mr-2 text-act underline underline-offset-2"
    >
      {table === "sites" ? "premises" : table}
    </a>
  );
}

/** “20 – 26 November 2026 (Europe/Lisbon)” */
function periodText({ from, to, zone }: FiguresView): string {
  const day = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "long", year: "numeric", timeZone: "UTC" });
  const [first, last] = [new Date(`${from}T00:00:00Z`), new Date(`${to}T00:00:00Z`)];
  const range = from === to ? day.format(last) : day.formatRange(first, last);
  return `${range} (${zone})`;
}
