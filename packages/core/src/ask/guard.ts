/** From an intent to the one command it asks for, or the reason why it is refused. Pure. */
import { channelKinds } from "../channel/index.ts";
import type { Value } from "../channel/kind.ts";
import { hasReached } from "../delivery/stage.ts";
import { RelayError } from "../errors/relay-error.ts";
import type { ChannelId } from "../id.ts";
import { resolveName } from "../site/name.ts";
import type { ChannelEntry, Snapshot } from "../site/snapshot.ts";
import type { Lockout } from "../state/lockout.ts";
import type { Asker, Intent } from "./intent.ts";

export interface Plan {
  readonly channel: ChannelEntry;
  readonly to: Value;
}

export type Guarded =
  | { readonly plan: Plan; readonly refusal: null }
  /** `unmatched` when no channel was found, `refused` when one was and may not be asked this. */
  | { readonly plan: null; readonly refusal: RelayError; readonly outcome: "unmatched" | "refused" };

/**
 * Resolves the target and checks that it may be asked this.
 *
 * @param lockoutOf the hold on a channel, if there is one
 */
export function guard(
  snapshot: Snapshot,
  intent: Intent,
  asker: Asker,
  lockoutOf: (channel: ChannelId) => Lockout | null,
): Guarded {
  const resolution = resolveName(snapshot, intent.target, asker.site);
  if ("wildcard" in resolution) {
    return refuse("unmatched", "wildcard-in-name", { target: intent.target, character: resolution.wildcard });
  }
  if ("unknown" in resolution) {
    const nearest = resolution.nearest.map((channel) => channel.address);
    return refuse("unmatched", "unknown-channel", { target: intent.target, nearest });
  }
  if ("ambiguous" in resolution) {
    const nearest = resolution.ambiguous.slice(0, 10).map((channel) => channel.address);
    return refuse("unmatched", "ambiguous-name", { target: intent.target, nearest });
  }
  const channel = resolution.found;
  const kind = channelKinds[channel.kind];
  const to = Object.hasOwn(kind.actions, intent.action)
    ? kind.actions[intent.action as keyof typeof kind.actions]
    : null;
  if (!to) {
    const nearest = Object.keys(kind.actions);
    return refuse("refused", "unknown-action", { action: intent.action, kind: kind.name, nearest });
  }
  if (intent.until !== null && !hasReached(channel.policy.aim, intent.until)) {
    return refuse("refused", "beyond-aim", { until: intent.until, aim: channel.policy.aim, target: channel.address });
  }
  const lockout = lockoutOf(channel.id);
  if (lockout) {
    const because = lockout.reason === null ? "" : ` (${lockout.reason})`;
    return refuse("refused", "locked-out", { holder: lockout.holder, target: channel.address, because });
  }
  return { plan: { channel, to }, refusal: null };
}

function refuse(
  outcome: "unmatched" | "refused",
  code: ConstructorParameters<typeof RelayError>[0],
  facts: ConstructorParameters<typeof RelayError>[1],
): Guarded {
  return { plan: null, refusal: new RelayError(code, facts), outcome };
}
