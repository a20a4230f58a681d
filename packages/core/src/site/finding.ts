/** What a check finds wrong or doubtful. */

export interface Finding {
  /** `wrong` keeps the site from being taken on, `doubt` does not. */
  readonly level: "wrong" | "doubt";
  /** Where: "devices/finch/porch", "scenes/evening". */
  readonly at: string;
  readonly text: string;
}
