/** What a channel is, as its device says: each change is kept with its cause, the same again is nothing new. */
import { type Accepted, agrees, type Value } from "../channel/value.ts";
import type { Report } from "../delivery/command-event.ts";
import type { CommandId } from "../id.ts";

/**
 * What made a channel what it is.
 * - command: one of ours · hand, timer, boot: by the device's own word
 * - late: it fits a recent command of ours that ended without proof
 * - foreign: another publisher wrote to the command topic
 * - retained: only a retained message says so, of unknown age
 * - unknown: the device does not say, and no command explains it
 */
export const CAUSES = ["command", "hand", "timer", "boot", "late", "foreign", "retained", "unknown"] as const;
export type Cause = (typeof CAUSES)[number];

export interface Observed {
  readonly value: Value;
  readonly cause: Cause;
  /** The command that caused it, where one did. */
  readonly commandId: CommandId | null;
  /** When it became so, as far as we know, ms since 1970. */
  readonly at: number;
}

export interface Observation {
  readonly next: Observed;
  /** The change to journal; null when the report says what was known already. */
  readonly change: { readonly from: Value | null; readonly to: Observed } | null;
}

/** What else is known when a report comes. */
export interface Clues {
  /** The command that this report confirmed, if it did. */
  readonly provenBy: CommandId | null;
  /** A command of this channel that ended a short while ago without proof. */
  readonly unproven: { readonly id: CommandId; readonly to: Value; readonly accepted: Accepted } | null;
  /** Whether the service gave out the id that the report names; null: nobody can say, it names a short number that may be anything. */
  readonly issued: boolean | null;
  /** What somebody else was seen to write to the command topic a short while ago. */
  readonly foreign: boolean;
}

/**
 * Folds one report into what is known.
 *
 * @param now ms since 1970
 * @example observe({ value: "off", … }, { value: "on", by: "hand", … }, clues, now)
 *   // → change from "off" to { value: "on", cause: "hand", … }
 */
export function observe(known: Observed | null, report: Report, clues: Clues, now: number): Observation {
  if (known !== null && known.value === report.value) return { next: known, change: null };
  const { cause, commandId } = causeOf(report, clues);
  const to: Observed = { value: report.value, cause, commandId, at: now };
  return { next: to, change: { from: known?.value ?? null, to } };
}

function causeOf(report: Report, clues: Clues): Pick<Observed, "cause" | "commandId"> {
  const { provenBy, unproven, issued, foreign } = clues;
  if (provenBy !== null) return { cause: "command", commandId: provenBy };
  if (report.by !== null && report.by !== "command") return { cause: report.by, commandId: null };
  // It obeyed a command that we never gave.
  if (report.live && report.id !== null && issued === false) return { cause: "foreign", commandId: null };
  if (issued === null) return unexplained(report, foreign);
  if (unproven !== null && (report.id === unproven.id || report.id === null)) {
    if (agrees(report.value, unproven.to, unproven.accepted)) return { cause: "late", commandId: unproven.id };
  }
  if (report.id !== null) return { cause: "command", commandId: report.id };
  if (report.by === "command" && !foreign) return { cause: "command", commandId: null };
  return unexplained(report, foreign);
}

function unexplained({ live }: Report, foreign: boolean): Pick<Observed, "cause" | "commandId"> {
  if (foreign) return { cause: "foreign", commandId: null };
  return { cause: live ? "unknown" : "retained", commandId: null };
}
