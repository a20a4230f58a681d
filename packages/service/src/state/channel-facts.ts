/** Facts of a channel that the board keeps beside its state. */
import type { Command, Observed, StateDoubt, Value } from "@bold-relay/core";
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
  readonly kind: "retained-command" | "foreign-publisher" | "ends-contradict" | "unreadable-report";
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

/** What is known of a channel, in a form that goes from one instance to another. */
export interface ChannelFacts {
  readonly observed: Observed | null;
  /** What it was before the last change. */
  readonly before: Value | null;
  /** When a hand last changed it, ms since 1970. */
  readonly handAt: number | null;
  /** What was heard last of it since link and device stood. */
  readonly heard: { readonly live: boolean } | null;
  readonly doubt: StateDoubt | null;
  /** When it was last heard live, ms since 1970. */
  readonly liveAt: number | null;
  readonly level: Value | null;
  readonly claim: { readonly value: Value; readonly since: number } | null;
  readonly concerns: readonly Concern[];
  readonly taken: Taken | null;
  readonly commanded: CommandRecord | null;
}
