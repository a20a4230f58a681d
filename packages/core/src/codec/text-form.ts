/** How a device writes text around its values. */
export interface TextForm {
  /** The character set of its payloads. Default `utf-8` (RFC 3629); `latin1` is ISO 8859-1. */
  readonly charset?: "utf-8" | "latin1";
  /** Stands between the parts of its payloads, which may then come in any order, with others among them: ";" in "ch=3;state=on". */
  readonly anyOrder?: string;
  /** Stands between the values of {list}. "" for characters side by side, as in 0110. Default ",". */
  readonly listSeparator?: string;
  /** How many outputs {list} tells where it is written, 1 to 32: each command tells all of them. */
  readonly listLength?: number;
  /** In which unit {for} and {ramp} are told. A part of a unit is rounded up. Default `ms`. */
  readonly times?: "ms" | "s" | "min";
}
