/** Which days and which premises, kept in the address so that it can be sent to somebody. */
import { useBoard } from "../../api/queries.ts";
import { Choice } from "../../parts/choice.tsx";
import { useSearchChange } from "../../parts/use-search-change.ts";

export interface Period {
  days: number;
  site?: string;
}

const DAYS: readonly (readonly [days: number, name: string])[] = [
  [1, "Today"],
  [7, "7 days"],
  [30, "30 days"],
  [90, "90 days"],
];
const DEFAULT_DAYS = 7;

type PeriodChange = Partial<Record<keyof Period, string>>;

export function usePeriod(): [Period, (change: PeriodChange) => void] {
  const [params, change] = useSearchChange<keyof Period>();
  const days = Number(params.get("days"));
  const site = params.get("site");
  const period: Period = { days: DAYS.some(([known]) => known === days) ? days : DEFAULT_DAYS };
  if (site) period.site = site;
  return [period, change];
}

interface PeriodBarProps {
  readonly period: Period;
  readonly onChange: (change: PeriodChange) => void;
}

export function PeriodBar({ period, onChange }: PeriodBarProps) {
  const { data: board } = useBoard();
  const sites = board?.sites ?? [];
  return (
    <div className="mt-3 flex flex-wrap items-center gap-x-6 gap-y-2">
      <fieldset className="flex flex-wrap items-center gap-1">
        <legend className="sr-only">Days</legend>
        {DAYS.map(([days, name]) => (
          <Choice key={days} pressed={period.days === days} onPress={() => onChange({ days: String(days) })}>
            {name}
          </Choice>
        ))}
      </fieldset>
      {sites.length > 1 && (
        <fieldset className="flex flex-wrap items-center gap-1">
          <legend className="sr-only">Premises</legend>
          <Choice pressed={period.site === undefined} onPress={() => onChange({ site: "" })}>
            All premises
          </Choice>
          {sites.map(({ slug, name }) => (
            <Choice key={slug} pressed={period.site === slug} onPress={() => onChange({ site: slug })}>
              {name}
            </Choice>
          ))}
        </fieldset>
      )}
    </div>
  );
}
