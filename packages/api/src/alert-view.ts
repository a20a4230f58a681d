/** Alerts, and what people may do about them. */
import type { AlertKind } from "@bold-relay/core";

/** GET /api/v1/alerts: the gravest first. */
export interface AlertView {
  kind: AlertKind;
  /** With the kind it identifies the alert. */
  subject: string;
  site: string | null;
  title: string;
  text: string;
  since: string;
  assignedTo: string | null;
  note: string | null;
  /** Hidden until then; null: not snoozed. */
  snoozedUntil: string | null;
  /** Resolved by a person; it is shown again when it happens again. */
  resolved: boolean;
}

/** The body of POST /api/v1/alerts. */
export interface AlertChangeBody {
  kind: AlertKind;
  subject: string;
  /** Assign it to the caller; false: to nobody. */
  assign?: boolean;
  /** 1 to 300 characters; empty deletes the note. */
  note?: string;
  /** Snooze it for so many hours, 0 to 720; 0 shows it again. */
  snoozeHours?: number;
  /** Hide it until it happens again; false shows it again. */
  resolve?: boolean;
}
