/** Which days and which sites, kept in the address so that it can be sent to somebody. */
import { Choice } from "../../parts/choice.tsx";
import { SiteChoice } from "../../parts/site-choice.tsx";
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
      <SiteChoice site={period.site} onChoose={(site) => onChange({ site })} />
    </div>
  );
}
