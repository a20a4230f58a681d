/** The alerts that there are, and what each says. */

export const ALERT_KINDS = [
  "database-unavailable",
  "instance-missing",
  "secret-guessed",
  "device-gone",
  "device-unsteady",
  "measured-otherwise",
  "stuck-between",
  "failing",
  "drifting",
  "reports-stopped",
  "command-topic",
  "report-unreadable",
  "inlet-caught-twice",
  "inlet-circling",
  "inlet-down",
  "inlet-flooded",
  "inlet-not-understood",
  "inlet-open-to-anyone",
  "inlet-quiet",
  "key-expiring",
] as const;
export type AlertKind = (typeof ALERT_KINDS)[number];

export interface Alert {
  readonly kind: AlertKind;
  /** What it is about: an address, an inlet's slug, a key's number. Kind and subject name it for good. */
  readonly subject: string;
  /** Whose it is; null: the whole team's. */
  readonly site: string | null;
  readonly title: string;
  /** What it means, and what to do. */
  readonly text: string;
  /** Changes when it happens anew: one that was closed is shown again then. */
  readonly mark: string;
  /** Since when, as far as it tells, ms since 1970. */
  readonly since: number;
}
