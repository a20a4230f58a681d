/** All of it in one look: the share that reached its target stage, what it was proven by, and how long each hop took. */
import { type DeliveryStatistics, formatDuration, type HopTimes, percentText } from "@bold-relay/core";
import { Link } from "wouter";
import { TrackMark } from "../../parts/stage-track.tsx";

export function Summary({ statistics }: { statistics: DeliveryStatistics }) {
  const { commands, replaced, successRate, delivered, refused, notUnderstood } = statistics;
  if (commands + refused + notUnderstood === 0)
    return (
      <p className="mt-6 max-w-[560px] text-soft">
        No requests in this period. Requests from the{" "}
        <Link to="/board" className="text-act underline">
          Board
        </Link>{" "}
        and from every inlet are counted here when they end.
      </p>
    );
  return (
    <div className="mt-5 flex flex-wrap items-start gap-x-12 gap-y-5">
      <div className="max-w-[430px]">
        <p className="font-plate font-semibold text-[44px] leading-[48px]" data-statistic="successRate">
          {percentText(successRate)}
        </p>
        <p className="mt-1">
          of commands delivered: {delivered} of {commands - replaced}{" "}
          {commands - replaced === 1 ? "command" : "commands"}
          <Missed statistics={statistics} />.
        </p>
        <p className="mt-1 text-note text-soft">
          {replaced > 0 && `${replacedText(replaced)}, not counted. `}
          {refused + notUnderstood > 0 && `Requests refused: ${refused}; not understood: ${notUnderstood}.`}
        </p>
      </div>
      <HopTrack statistics={statistics} />
    </div>
  );
}

function replacedText(count: number): string {
  return count === 1 ? "1 more was replaced by a newer one" : `${count} more were replaced by newer ones`;
}

function Missed({ statistics: { missed } }: { statistics: DeliveryStatistics }) {
  const told = Object.entries(missed).filter(([, count]) => count > 0);
  if (told.length === 0) return null;
  return (
    <>
      {"; "}
      <Link to="/log?result=not-delivered" className="font-semibold text-wrong underline underline-offset-2">
        {told.map(([end, count]) => `${count} ${end}`).join(", ")}
      </Link>
    </>
  );
}

/** The stage track with the times of all commands: half of them were that quick, and nineteen in twenty. */
function HopTrack({ statistics: { times, proven } }: { statistics: DeliveryStatistics }) {
  if (times.whole === null) return null;
  const marks = [
    { name: "accepted", next: times.published, proof: null, there: true },
    { name: "published", next: times.acknowledged, proof: proven.published, there: times.published !== null },
    { name: "acknowledged", next: times.confirmed, proof: proven.acknowledged, there: times.acknowledged !== null },
    { name: "confirmed", next: null, proof: proven.confirmed + proven.measured, there: times.confirmed !== null },
  ];
  return (
    <div className="min-w-[330px] max-w-[560px] flex-1">
      <p className="text-note text-soft">
        Median <strong className="font-semibold text-ink">{formatDuration(times.whole.p50)}</strong>, 95th percentile{" "}
        <strong className="font-semibold text-ink">{formatDuration(times.whole.p95)}</strong>
      </p>
      <ol className="mt-2 grid grid-cols-[1fr_1fr_1fr_auto] font-plate text-note" aria-label="Times of each hop">
        {marks.map(({ name, next, proof, there }, index) => (
          <li key={name} className="relative min-w-[84px]">
            <p className="h-[18px] pl-[14px] text-center text-ink">{timeText(next, "p50")}</p>
            {index < 3 && (
              <span
                className={`absolute right-0 left-[14px] mt-[6px] border-t-2 ${next === null ? "border-rule" : "border-ink"}`}
              />
            )}
            <svg width={14} height={14} className="block" aria-hidden="true">
              <TrackMark mark={there ? "proven" : "beyond"} place={0} />
            </svg>
            <p className="h-[18px] pl-[14px] text-center text-soft">{timeText(next, "p95")}</p>
            <p className={`mt-1 ${there ? "font-medium text-ink" : "text-faint"}`}>{name}</p>
            <p className="text-soft">{proof === null ? "highest stage:" : proof}</p>
          </li>
        ))}
      </ol>
    </div>
  );
}

function timeText(times: HopTimes | null, which: "p50" | "p95"): string {
  return times === null ? "" : formatDuration(times[which]);
}
