/** A channel as callers see it: what it was told beside what it is. */
import type { BundleView, ChannelView, LockoutView } from "@bold-relay/api";
import {
  actionsOf,
  type Bundle,
  bundleActions,
  type ChannelEntry,
  channelWords,
  devicePresence,
  isChannelOn,
  kindOfChannel,
  type Lockout,
  presenceSource,
  type Value,
} from "@bold-relay/core";
import type { Deadlines } from "../delivery/deadlines.ts";
import type { Board } from "../state/board.ts";
import type { Lockouts } from "../state/lockouts.ts";
import { commandView } from "./command-view.ts";

export interface ChannelViewDeps {
  readonly board: Board;
  readonly lockouts: Lockouts;
  readonly deadlines: Deadlines;
}

export function channelView(channel: ChannelEntry, { board, lockouts, deadlines }: ChannelViewDeps): ChannelView {
  const words = (value: Value) => channelWords(channel, value);
  const offAt = deadlines.dueAt(channel.id);
  const lockout = lockouts.of(channel.id);
  const observed = board.observedOf(channel.id);
  const age = board.ageOf(channel);
  const claim = board.claimOf(channel.id);
  const last = board.lastCommandOf(channel.id);
  const presence = board.presenceOf(channel.device.address);
  return {
    address: channel.address,
    number: channel.number,
    name: channel.name,
    kind: channel.kind,
    actions: actionsOf(channel),
    range: rangeView(channel),
    holdForMs: channel.policy.holdForMs,
    room: channel.room,
    device: {
      address: channel.device.address,
      name: channel.device.name,
      presence: devicePresence(presence?.up ?? null, presenceSource(channel)),
      presenceSince: presence ? new Date(presence.since).toISOString() : null,
    },
    commanded: last && {
      value: last.to,
      text: words(last.to),
      commandId: last.id,
      requestId: last.requestId,
      at: new Date(last.askedAt).toISOString(),
      requester: last.requester,
      asker: last.asker,
      inlet: last.inlet,
    },
    observed: observed && {
      value: observed.value,
      text: words(observed.value),
      on: isChannelOn(channel, observed.value),
      cause: observed.cause,
      commandId: observed.commandId,
      at: new Date(observed.at).toISOString(),
      asOf: age.asOf === null ? null : new Date(age.asOf).toISOString(),
      stale: age.stale,
      measured: channel.seenBy !== null,
    },
    claimed: claim === null ? null : words(claim),
    agreement: board.agreementOf(channel.id),
    offAt: offAt === null ? null : new Date(offAt).toISOString(),
    concerns: board.concernsOf(channel.id).map((one) => ({ ...one, since: new Date(one.since).toISOString() })),
    lockout: lockout && lockoutView(lockout),
    lastCommand: last && commandView(last, board),
  };
}

function rangeView(channel: ChannelEntry): ChannelView["range"] {
  const { range } = kindOfChannel(channel);
  if (!range) return null;
  const { least, most, step = 1, unit } = range;
  return { least, most, step, unit: channel.unit ?? unit };
}

export function lockoutView({ id, holder, holderId, reason, wholeDevice, since }: Lockout): LockoutView {
  return { id, holder, holderId, reason, wholeDevice, since: new Date(since).toISOString() };
}

export function bundleView(bundle: Bundle, { snapshot }: Board): BundleView {
  const { kind, address, name, members } = bundle;
  const channels = members.flatMap(({ channel }) => snapshot.byId.get(channel) ?? []);
  const actions = bundleActions(bundle, snapshot.byId);
  return { kind, address, name, channels: channels.map((channel) => channel.address), actions };
}
