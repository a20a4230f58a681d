/** A channel over a longer time: the curve of a reading, or how long everything else was on, day by day. */
import type { TrendView } from "@bold-relay/api";
import { formatDuration } from "@bold-relay/core";
import { lazy, Suspense, useState } from "react";
import { useTrend } from "../../api/queries.ts";
import { Choice } from "../../parts/choice.tsx";
import { SectionTitle } from "../../parts/form.tsx";
import { when } from "../../parts/time.ts";

/** Draws with a library of its own: only who looks at a reading pays for that. */
const ReadingChart = lazy(() => import("./reading-chart.tsx"));

const SPANS = [
  [1, "24 hours"],
  [7, "7 days"],
  [30, "30 days"],
] as const;

export function ReadingOverTime({ channel }: { channel: string }) {
  const [days, setDays] = useState<number>(1);
  const { data: history, error } = useTrend(channel, days);
  return (
    <section className="mt-6" aria-label="Readings">
      <fieldset className="flex flex-wrap items-center gap-1">
        <legend className="sr-only">How far back</legend>
        {SPANS.map(([span, name]) => (
          <Choice key={span} pressed={span === days} onPress={() => setDays(span)}>
            {name}
          </Choice>
        ))}
        {history && <span className="ml-3 text-note text-soft">{rangeText(history)}</span>}
      </fieldset>
      {error && <p className="mt-2 text-wrong">{error.message}</p>}
      {history && history.readings.length > 0 && (
        <Suspense fallback={<div className="h-[220px]" />}>
          <ReadingChart history={history} />
        </Suspense>
      )}
    </section>
  );
}

function rangeText({ readings, unit }: TrendView): string {
  if (readings.length === 0) return "nothing was read";
  const words = (value: number) => `${Math.round(value * 100) / 100}${unit ? ` ${unit}` : ""}`;
  const low = Math.min(...readings.map((point) => point.low));
  const high = Math.max(...readings.map((point) => point.high));
  return low === high ? `always ${words(low)}` : `${words(low)} to ${words(high)}`;
}

const DAYS = 14;

/** A bar for each day, against the whole day. */
export function OnOverTime({ channel }: { channel: string }) {
  const { data: history } = useTrend(channel, DAYS);
  if (!history?.days.some(({ onMs }) => onMs > 0)) return null;
  const newestFirst = [...history.days].reverse();
  const last = newestFirst.findLastIndex(({ onMs }) => onMs > 0);
  return (
    <section aria-label="On, day by day">
      <SectionTitle>On, day by day</SectionTitle>
      <ul>
        {newestFirst.slice(0, last + 1).map(({ day, onMs }) => (
          <li
            key={day}
            className="grid grid-cols-[92px_minmax(0,1fr)_70px] items-center gap-x-4 border-hairline border-b py-1.5 text-note"
          >
            <span className="text-soft">{when.weekday(day)}</span>
            <span className="h-3 border border-rule" aria-hidden="true">
              <span
                className="block h-full bg-lamp"
                style={{ width: `${Math.min(100, (100 * onMs) / 86_400_000)}%` }}
              />
            </span>
            <span className="text-right">{onMs > 0 ? formatDuration(onMs) : "never"}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
