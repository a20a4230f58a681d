/** Which days and which premises, kept in the address so that it can be sent to somebody. */
import { Button } from "@headlessui/react";
import { useSearchParams } from "react-router";
import { useBoard } from "../../api/queries.ts";

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

export function usePeriod(): [Period, (change: Partial<Record<keyof Period, string>>) => void] {
  const [params, setParams] = useSearchParams();
  const days = Number(params.get("days"));
  const site = params.get("site");
  const period: Period = { days: DAYS.some(([known]) => known === days) ? days : DEFAULT_DAYS };
  if (site) period.site = site;
  const change = (changed: Partial<Record<keyof Period, string>>) =>
    setParams(
      (before) => {
        for (const [name, value] of Object.entries(changed)) {
          if (value) before.set(name, value);
          else before.delete(name);
        }
        return before;
      },
      { replace: true },
    );
  return [period, change];
}

interface PeriodBarProps {
  readonly period: Period;
  readonly onChange: (change: Partial<Record<keyof Period, string>>) => void;
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

function Choice({ pressed, onPress, children }: { pressed: boolean; onPress: () => void; children: string }) {
  return (
    <Button
      aria-pressed={pressed}
      onClick={onPress}
      className={`h-8 rounded-key px-2.5 font-semibold text-note ${
        pressed ? "bg-ink text-letters" : "text-soft data-hover:bg-act-wash data-hover:text-act"
      }`}
    >
      {children}
    </Button>
  );
}
