/** What a verdict on a command is made from. */
import type { Reason } from "../delivery/command.ts";
import type { End, Stage, TargetStage } from "../delivery/stage.ts";
import type { IgnoredWords } from "./ignored.ts";

export interface VerdictFacts {
  /** The setpoint in words: "on", "35 %". */
  readonly to: string;
  /** Whether it is tried until it is proven. */
  readonly urgent: boolean;
  readonly stage: Stage;
  readonly targetStage: TargetStage;
  readonly end: End | null;
  readonly reason: Reason | null;
  readonly attempts: number;
  /** The device's own code, or the broker's, of a refusal. */
  readonly code: number | null;
  /** What the device or its translator last said of why not, in its own words. */
  readonly said: string | null;
  /** Of one that a person closed: who, and why. */
  readonly note: string | null;
  /** It asked only what the channel is. */
  readonly reads: boolean;
  /** Whether the device acknowledged it. */
  readonly acknowledged: boolean;
  /** Confirmed because the channel was so already. */
  readonly already: boolean;
  /** Its device said nothing, as it does where nothing changes, and the channel was known to be so. */
  readonly unchanged: boolean;
  /** What the device reported as proof, in words, where that is not `to` word for word: the nearest that it has. */
  readonly reported: string | null;
  /** From acceptance to the end, ms; null while open. */
  readonly tookMs: number | null;
  /** The device in words: "relay board in the porch cupboard". */
  readonly device: string;
  /** Whether the device is on the broker, by its own word; null when it never said. */
  readonly online: boolean | null;
  readonly topic: string;
  /** Where a broker user of this device may subscribe, if it was made here; empty: nobody knows. */
  readonly maySubscribe: readonly string[];
  /** What the device said meanwhile that proved nothing; null: it said nothing of that kind. */
  readonly ignored: IgnoredWords | null;
  /** Confirmed by something else that sees the channel, not by its own device. */
  readonly measured: boolean;
}
