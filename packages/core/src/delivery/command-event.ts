/** What happens to a command, and what follows: the words of the reducer in `transition.ts`. */
import type { Value } from "../channel/value.ts";
import type { CommandId } from "../id.ts";
import type { Command, RawMessage, Reason } from "./command.ts";
import type { Remark } from "./remark.ts";

export type CommandEvent =
  /** It may be written only once: that it is about to be must be on record first. */
  | { readonly type: "keep-sending" }
  /** That is on record now. */
  | { readonly type: "sending-kept" }
  /** The lane writes it now. `known`: what the device last said that the channel is, if that is still its word. */
  | { readonly type: "send"; readonly known: Value | null; readonly wire?: RawMessage }
  /** PUBACK, MQTT 5 section 3.4.2.1: 0 accepted, 16 no matching subscribers, 128 and above refused. */
  | { readonly type: "puback"; readonly attempt: number; readonly code: number }
  /** The device's acknowledgement of this very command. */
  | {
      readonly type: "done";
      /** null: it was passed on, and nobody knows what became of it. */
      readonly ok: boolean | null;
      readonly code: number | null;
      readonly why?: string | undefined;
      /** What the device last said that the channel is, if that is still its word; null when nobody can say. */
      readonly known: Value | null;
      readonly wire?: RawMessage | undefined;
    }
  /** The device says what the channel is. */
  | { readonly type: "report"; readonly report: Report; readonly wire?: RawMessage }
  /** The device said something that proves nothing. */
  | { readonly type: "ignore"; readonly remark: Remark; readonly wire?: RawMessage | undefined }
  /** The channel is so already, and must not be written: it is driven by impulses. */
  | { readonly type: "already" }
  /** Its device says nothing because nothing changes: the channel is so already. */
  | { readonly type: "unchanged" }
  /** Its device acknowledges nothing, and takes longer to report than one attempt waits: its report is waited for beside the lane. */
  | { readonly type: "await-report" }
  /** A newer command takes its place. */
  | { readonly type: "replace" }
  /** The connection it was written to is gone. */
  | { readonly type: "lost" }
  /** Somebody has locked the channel out. */
  | { readonly type: "lock" }
  /** Nothing came in time and nothing more will be tried. */
  | { readonly type: "give-up" }
  /** Its time to live passed before it was ever its turn. */
  | { readonly type: "expire" }
  /** Something forbids that it is written, now or again. */
  | { readonly type: "block"; readonly reason: BlockReason }
  /** It took effect by no proof that came in time, and is urgent: it will be written again. */
  | { readonly type: "insist" }
  /** A person ends it, with a reason. */
  | { readonly type: "close"; readonly note: string };

/** What forbids a command to be written. */
export type BlockReason = Extract<
  Reason,
  | "locked-out"
  | "interlocked"
  | "interlock-unproven"
  | "device-absent"
  | "nothing-to-start-from"
  | "state-unknown"
  | "others-unknown"
  | "midway"
  | "restored"
  | "removed"
>;

/** What a device says a channel is. */
export interface Report {
  readonly value: Value;
  /** What the device says made it so; null when it does not say. */
  readonly by: "command" | "hand" | "timer" | "boot" | null;
  /** The command that the device says it obeyed. */
  readonly id: CommandId | null;
  /** False for a retained message: old news that proves nothing about a command. */
  readonly live: boolean;
  /**
   * It waited at the broker while the link was down, and may be older than what was written last: of a command that it does not name it
   * proves nothing.
   */
  readonly waited?: true;
  /** Told by another channel, that sees this one: its own device did not say so. */
  readonly measured?: true;
}

/**
 * What the pipeline must do. `changed` comes after every change: the command is the new truth.
 * `keep-sending`: make the command durable as it is, then tell its lane `sending-kept`.
 * `publish` with `asks`: ask the device what the channel is, too.
 */
export type Effect =
  | {
      readonly type: "publish";
      readonly command: Command;
      readonly attempt: number;
      readonly expiryMs: number;
      readonly asks: boolean;
    }
  | { readonly type: "keep-sending"; readonly command: Command }
  | { readonly type: "changed"; readonly command: Command };

export interface Step {
  readonly next: Command;
  readonly effects: readonly Effect[];
}
