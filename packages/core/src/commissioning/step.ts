/** The steps in which a device is proven, in the order in which an engineer works: each hop before the next one. */

import { kindOf, kindOfChannel } from "../channel/index.ts";
import { trialsOf } from "../channel/kind.ts";
import type { ChannelEntry } from "../site/entry.ts";

/**
 * - waiting: its turn has not come · ready: it begins when the person says so · running
 * - asks: the service cannot know, the person says what they saw
 */
export const STEP_STATES = ["waiting", "ready", "running", "asks", "passed", "failed", "skipped"] as const;
export type StepState = (typeof STEP_STATES)[number];

export interface CommissioningStep {
  /** "link", "presence", "channel porch", "hand", "power", "safe" */
  readonly name: string;
  readonly title: string;
  /** What the person does, or lets happen, when it begins; null: it begins by itself. */
  readonly invites: string | null;
  readonly state: StepState;
  /** What happened, in words. */
  readonly text: string | null;
  /** What to try where it failed, or what to change where it was narrow. */
  readonly tryThis: string | null;
  /** Who said it or skipped it; null: the evidence did. */
  readonly by: string | null;
  /** ms since 1970. */
  readonly at: number | null;
}

export const isOver = ({ state }: CommissioningStep) => state === "passed" || state === "failed" || state === "skipped";

/** Every step for a device, the first of them running. */
export function stepsOf(channels: readonly ChannelEntry[]): CommissioningStep[] {
  const step = (name: string, title: string, invites: string | null): CommissioningStep => {
    return { name, title, invites, state: "waiting", text: null, tryThis: null, by: null, at: null };
  };
  const outputs = channels.filter(({ kind }) => !kindOf(kind).input);
  return [
    step("link", "The service reaches the broker", null),
    step("presence", "The device is online", null),
    ...channels.map((channel) =>
      step(`channel ${channel.slug}`, `${channel.name}, ${channel.room.name}`, invitationFor(channel)),
    ),
    ...(outputs.some(({ topics }) => topics.is !== null)
      ? [step("hand", "A change by hand is reported", "Use a switch at the wall, or the device's own button.")]
      : []),
    ...(channels[0]?.patterns.here
      ? [
          step(
            "power",
            "A power cut and the return are reported",
            "Switch the device's power off, wait a moment, and switch it on again.",
          ),
          ...(outputs.some(({ topics }) => topics.is !== null)
            ? [step("safe", "After a power cut it is in its safe state", null)]
            : []),
        ]
      : []),
  ];
}

function invitationFor(channel: ChannelEntry): string {
  const { name } = channel;
  const kind = kindOfChannel(channel);
  const { input } = kind;
  if (input) return `Change it: ${input.changedBy}.`;
  const asks = trialsOf(kind)
    .map(({ action, value }) => (value === undefined ? action : `${action} ${value}`))
    .join(", then ");
  return `${name} will be commanded: ${asks}. Make sure that nobody is in the way.`;
}
