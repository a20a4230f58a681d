/** Every way to reach a device, by its name in a plan (`by`). A new one is its file plus its line here. */
import { httpReach } from "./http.ts";
import type { ReachKind } from "./kind.ts";
import { lampsReach } from "./lamp-string.ts";
import { linesReach } from "./lines.ts";
import { mailboxReach } from "./mailbox.ts";
import { radioReach } from "./radio.ts";

export const reachKinds = {
  http: httpReach,
  lines: linesReach,
  mailbox: mailboxReach,
  radio: radioReach,
  lamps: lampsReach,
};

/** The settings of any of them. */
export type Reach = {
  [Name in keyof typeof reachKinds]: (typeof reachKinds)[Name] extends ReachKind<infer Settings> ? Settings : never;
}[keyof typeof reachKinds];

/** The kind of these settings. */
export function reachKindOf(reach: Reach): ReachKind<Reach> {
  return reachKinds[reach.by] as ReachKind<Reach>;
}
