/** Facts of a channel that the board keeps beside its state. */
import type { Command, Value } from "@bold-relay/core";
import type { CommandRecord, RequestRecord } from "../store/find-requests.ts";

export interface Presence {
  readonly up: boolean;
  readonly boot: string | null;
  /** When it became so, as far as we know, ms since 1970. */
  readonly since: number;
}
/** A command of this run with its request, or a record of an earlier one. */
export type LastCommand =
  | { readonly command: Command; readonly request: RequestRecord }
  | { readonly command: CommandRecord; readonly request: null };

/** Something about a channel that a person should look at, although no command failed of it. */
export interface Concern {
  readonly kind: "retained-command" | "foreign-publisher" | "ends-contradict";
  readonly text: string;
  /** ms since 1970. */
  readonly since: number;
}

/** A setpoint that the device has proven to have taken. */
export interface Taken {
  readonly seq: number;
  readonly value: Value;
  /** When it was asked for, ms since 1970. */
  readonly at: number;
}
