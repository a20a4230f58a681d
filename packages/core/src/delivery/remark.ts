/**
 * What a device said while a command of it was open, and why it proved nothing. Kept in the command's story, so that nobody has
 * to hear "it did not answer" of a device that did.
 */

/**
 * - garbled: not in the profile's form
 * - no-result: an acknowledgement that says neither yes nor no
 * - other-channel: it was about another channel of the device
 * - other-value: the channel is reported to be something else
 * - other-command: it named another command's id
 * - late: an acknowledgement without id that no write was waiting for, or that belonged to an earlier write
 * - doubled: acknowledged already
 * - retained: it may be of any age
 * - waited: it waited at the broker while the link was down, and named no command
 * - early: it came before the broker had taken the command, and named no command
 * - not-commanded: by its own word a hand, a timer or a power-up made it so
 * - went, came, restarted: its presence changed
 */
export const IGNORED_WHYS = [
  "garbled",
  "no-result",
  "other-channel",
  "other-value",
  "other-command",
  "late",
  "doubled",
  "retained",
  "waited",
  "early",
  "not-commanded",
  "went",
  "came",
  "restarted",
] as const;
export type IgnoredWhy = (typeof IGNORED_WHYS)[number];

export interface Remark {
  /** What it was taken for; null: for nothing. */
  readonly takenFor: "acknowledgement" | "report" | "presence" | null;
  readonly why: IgnoredWhy;
  /** More of it: what is wrong with the form, the other channel's address. At most 200 characters. */
  readonly detail?: string;
}

/** How many remarks one command keeps; the first half and the newest count. */
export const MOST_REMARKS = 16;
