/** The stage track: four marks on a line. The same marks are drawn in the console and in the terminal. */
import { type End, hasReached, STAGES, type Stage, type TargetStage } from "../delivery/stage.ts";

/**
 * - proven: there is evidence that it got here
 * - measured: the same, by something else than its own device
 * - waiting: it should get here and may still
 * - stopped: it should have got here and did not
 * - never: it lies behind the stop
 * - beyond: this device cannot prove it
 */
export type Mark = "proven" | "measured" | "waiting" | "stopped" | "never" | "beyond";

export interface Progress {
  readonly stage: Stage;
  readonly targetStage: TargetStage;
  readonly end: End | null;
  /** Confirmed by something else that sees the channel. */
  readonly measured?: boolean;
}

/** The four marks, from accepted to confirmed. */
export function trackMarks({ stage, targetStage, end, measured }: Progress): Mark[] {
  const delivered = end === "delivered";
  let stopShown = false;
  return STAGES.map((mark) => {
    if (hasReached(stage, mark)) return measured && mark === "confirmed" ? "measured" : "proven";
    if (!hasReached(targetStage, mark) || delivered) return "beyond";
    if (end === null) return "waiting";
    if (stopShown) return "never";
    stopShown = true;
    return "stopped";
  });
}

const GLYPH: Record<Mark, string> = { proven: "●", measured: "◉", waiting: "◌", stopped: "✕", never: "○", beyond: "○" };

/**
 * The track as text, ten columns wide.
 *
 * @example trackText({ stage: "acknowledged", targetStage: "confirmed", end: null }) // → "●──●──●┄┄◌"
 */
export function trackText(progress: Progress): string {
  const marks = trackMarks(progress);
  return marks
    .map((mark, index) => {
      if (index === 0) return GLYPH[mark];
      const line = mark === "waiting" || mark === "stopped" ? "┄┄" : "──";
      return line + GLYPH[mark];
    })
    .join("");
}
