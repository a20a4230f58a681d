/** What trials of all kinds share. */
import { RelayError } from "@bold-relay/core";

export const TRIAL_WITHIN_MS = 15_000;
export const LONGEST_SHOWN = 4_000;

/** @throws RelayError bad-request */
export function needed<Given>(given: Given | null | undefined, what: string): Given {
  if (given === null || given === undefined)
    throw new RelayError("bad-request", { why: `To try this for real it takes ${what}` });
  return given;
}
