/** What a channel is told after its device was powered up anew. Acts on evidence of a power-up only. */
import { kindOf } from "../channel/index.ts";
import type { Value } from "../channel/value.ts";
import type { ChannelEntry } from "../site/entry.ts";
import { isAsCommanded } from "../site/writing.ts";
import type { Observed } from "./observe.ts";

export interface PowerUpFacts {
  /** What the channel was last told and took, and when it was asked, ms since 1970. */
  readonly commanded: { readonly value: Value; readonly at: number } | null;
  readonly observed: Observed | null;
  /** When a hand last changed it, ms since 1970; null: never seen. */
  readonly handAt: number | null;
  /** Whether a command is open: it is newer than the power-up's rule and has its own way. */
  readonly commandOpen: boolean;
}

/**
 * The setpoint that the channel's rule asks for; null when there is nothing to do. A by-hand change after the last
 * command wins: whoever stood at the wall knew better.
 */
export function powerUpSetpoint(channel: ChannelEntry, facts: PowerUpFacts): Value | null {
  const { kind, policy } = channel;
  const { commanded, observed, handAt, commandOpen } = facts;
  if (policy.powerUp === "keep" || !kindOf(kind).restorable || commandOpen) return null;
  if (handAt !== null && handAt > (commanded?.at ?? 0)) return null;
  const wanted = policy.powerUp === "safe" ? safeStateOf(channel) : (commanded?.value ?? null);
  if (wanted === null) return null;
  return observed !== null && isAsCommanded(channel, observed.value, wanted) ? null : wanted;
}

/** What nobody need fear: what its description says, or at rest; null: a setpoint of which nothing is said. */
export function safeStateOf({ kind, policy }: Pick<ChannelEntry, "kind" | "policy">): Value | null {
  const { rest, range } = kindOf(kind);
  return policy.safe ?? (range?.ofChannel ? null : rest);
}
