/** The stage track: four marks on a line, filling as a command goes from accepted to confirmed. */
import type { CommandView } from "@bold-relay/api";
import { formatDuration, type Mark, STAGES, trackMarks } from "@bold-relay/core";
import { type CSSProperties, useState } from "react";

const STEP = 29;
const RADIUS = 4.5;
const MIDDLE = 7;

interface StageTrackProps {
  readonly command: CommandView;
}

/** Drawn small in a row, with its time beside it. */
export function StageTrack({ command }: StageTrackProps) {
  const marks = trackMarks(command);
  // The command that was there when the row appeared is shown as it is; only what comes later moves.
  const [first] = useState(command.id);
  const fresh = command.id !== first;
  return (
    <svg
      key={command.id}
      role="img"
      aria-label={trackWords(command)}
      width={STEP * 3 + 2 * MIDDLE}
      height={2 * MIDDLE}
      className={`block shrink-0 ${fresh ? "track-fresh" : ""}`}
      style={{ "--track-step": STEP } as CSSProperties}
    >
      {marks.slice(1).map((mark, index) => (
        <TrackLine key={STAGES[index + 1]} mark={mark} place={index + 1} />
      ))}
      {marks.map((mark, index) => (
        <TrackMark key={STAGES[index]} mark={mark} place={index} />
      ))}
    </svg>
  );
}

/** Drawn wide in a trace: the stages named, the time of each hop between them. */
export function WideStageTrack({ command }: StageTrackProps) {
  const marks = trackMarks(command);
  const hops = hopTimes(command);
  return (
    <ol className="grid grid-cols-[1fr_1fr_1fr_auto] font-plate text-note" aria-label={trackWords(command)}>
      {marks.map((mark, index) => {
        const next = marks[index + 1];
        return (
          <li key={STAGES[index]} className="relative min-w-[62px]">
            <p className="h-[18px] pl-[14px] text-center text-soft">{hops[index]}</p>
            {next && <span className={`absolute right-0 left-[14px] mt-[6px] ${WIDE_LINE[next]}`} />}
            <svg width={MIDDLE * 2} height={MIDDLE * 2} className="block" aria-hidden="true">
              <TrackMark mark={mark} place={0} />
            </svg>
            <p className={`mt-0.5 ${WIDE_WORD[mark]}`}>{STAGES[index]}</p>
          </li>
        );
      })}
    </ol>
  );
}

const WIDE_LINE: Record<Mark, string> = {
  proven: "border-ink border-t-2",
  measured: "border-ink border-t-2",
  waiting: "border-soft border-t-2 border-dotted",
  stopped: "border-soft border-t-2 border-dotted",
  never: "border-rule border-t-2",
  beyond: "border-rule border-t-2",
};

const WIDE_WORD: Record<Mark, string> = {
  proven: "font-medium text-ink",
  measured: "font-medium text-ink",
  waiting: "text-soft",
  stopped: "font-semibold text-wrong",
  never: "text-faint",
  beyond: "text-faint",
};

function TrackLine({ mark, place }: { mark: Mark; place: number }) {
  const right = MIDDLE + place * STEP;
  return (
    <line
      className="track-line"
      data-mark={mark}
      style={{ "--place": place } as CSSProperties}
      x1={right - STEP + RADIUS}
      x2={right - RADIUS}
      y1={MIDDLE}
      y2={MIDDLE}
      {...lineLook(mark)}
    />
  );
}

function lineLook(mark: Mark) {
  if (mark === "proven" || mark === "measured")
    return { stroke: "var(--color-ink)", strokeWidth: 2, strokeDasharray: STEP };
  if (mark === "waiting" || mark === "stopped")
    return { stroke: "var(--color-soft)", strokeWidth: 1.5, strokeDasharray: "2 3" };
  return { stroke: "var(--color-rule)", strokeWidth: 1.5 };
}

/** @param place from 0, of four on one drawing */
export function TrackMark({ mark, place }: { mark: Mark; place: number }) {
  const x = MIDDLE + place * STEP;
  const style = { "--place": place } as CSSProperties;
  if (mark === "stopped") {
    const arm = 4.5;
    const cross = `M${x - arm} ${MIDDLE - arm}l${arm * 2} ${arm * 2}M${x - arm} ${MIDDLE + arm}l${arm * 2} ${-arm * 2}`;
    return <path d={cross} stroke="var(--color-wrong)" strokeWidth="2" fill="none" />;
  }
  // Seen by something else: a ring around the mark.
  if (mark === "measured")
    return (
      <g className="track-mark" data-mark={mark} style={style}>
        <circle cx={x} cy={MIDDLE} r={RADIUS + 1} fill="none" stroke="var(--color-ink)" strokeWidth="1.5" />
        <circle cx={x} cy={MIDDLE} r={RADIUS - 2} fill="var(--color-ink)" />
      </g>
    );
  const proven = mark === "proven";
  return (
    <circle
      className="track-mark"
      data-mark={mark}
      style={style}
      cx={x}
      cy={MIDDLE}
      r={proven ? RADIUS : RADIUS - 0.75}
      fill={proven ? "var(--color-ink)" : "transparent"}
      stroke={proven ? "none" : mark === "waiting" ? "var(--color-soft)" : "var(--color-rule)"}
      strokeWidth="1.5"
      strokeDasharray={mark === "waiting" ? "2 2" : undefined}
    />
  );
}

/** The time between each stage and the next, where both were seen. */
function hopTimes({ after }: CommandView): string[] {
  const times = [after.accepted, after.published, after.acknowledged, after.confirmed];
  return times.slice(1).map((time, index) => {
    const before = times[index];
    return time === null || before === null || before === undefined ? "" : formatDuration(time - before);
  });
}

/** "complete after 14 ms", "unanswered: stopped before acknowledged", "open: published" */
function trackWords({ end, stage, after, targetStage, measured }: CommandView): string {
  if (end === null) return `open: ${stage}`;
  if (end === "delivered")
    return `${targetStage}${measured ? ", measured," : ""}${after.ended === null ? "" : ` after ${formatDuration(after.ended)}`}`;
  return `${end}: got as far as ${stage}`;
}
