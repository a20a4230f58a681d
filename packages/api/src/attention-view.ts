/** What needs attention, and what people may say of it. */
import type { AlertKind } from "@bold-relay/core";

/** GET /api/v1/attention: the gravest first. */
export interface MatterView {
  kind: AlertKind;
  /** With the kind it names the matter. */
  subject: string;
  site: string | null;
  title: string;
  text: string;
  since: string;
  takenBy: string | null;
  note: string | null;
  /** Not shown until then; null: shown. */
  mutedUntil: string | null;
  /** Closed by a person; it is shown again when it happens anew. */
  closed: boolean;
}

/** The body of POST /api/v1/attention. */
export interface CareBody {
  kind: AlertKind;
  subject: string;
  /** Take it, as whoever calls; or let go of it. */
  take?: boolean;
  /** 1 to 300 characters; empty takes the note away. */
  note?: string;
  /** Hide it for so many hours, 0 to 720; 0 shows it again. */
  muteHours?: number;
  /** Hide it until it happens anew. */
  close?: boolean;
}
