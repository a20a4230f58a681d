/** A channel as callers see it: what it was told beside what it is. */
import type { ChannelView, LockoutView } from "@bold-relay/api";
import { type ChannelEntry, channelKinds, type Lockout } from "@bold-relay/core";
import type { Board } from "../pipeline/board.ts";
import type { Lockouts } from "../pipeline/lockouts.ts";
import { commandView } from "./command-view.ts";

export function channelView(channel: ChannelEntry, board: Board, lockouts: Lockouts): ChannelView {
  const lockout = lockouts.of(channel.id);
  const observed = board.observedOf(channel.id);
  const last = board.lastCommandOf(channel.id);
  const presence = board.presenceOf(channel.device.address);
  return {
    address: channel.address,
    number: channel.number,
    name: channel.name,
    kind: channel.kind,
    actions: Object.keys(channelKinds[channel.kind].actions),
    room: channel.room,
    device: {
      address: channel.device.address,
      name: channel.device.name,
      present: presence?.up ?? null,
      presentSince: presence ? new Date(presence.since).toISOString() : null,
    },
    commanded: last && {
      value: last.to,
      commandId: last.id,
      requestId: last.requestId,
      at: new Date(last.askedAt).toISOString(),
      asker: last.asker,
      inlet: last.inlet,
    },
    observed: observed && {
      value: observed.value,
      cause: observed.cause,
      commandId: observed.commandId,
      at: new Date(observed.at).toISOString(),
    },
    agreement: board.agreementOf(channel.id),
    lockout: lockout && lockoutView(lockout),
    lastCommand: last && commandView(last, board),
  };
}

export function lockoutView({ id, holder, reason, wholeDevice, since }: Lockout): LockoutView {
  return { id, holder, reason, wholeDevice, since: new Date(since).toISOString() };
}
