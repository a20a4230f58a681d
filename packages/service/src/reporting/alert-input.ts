/** What is known, gathered for whoever looks for what needs alerts: of devices one after the other, for there may be many. */
import {
  type AlertSources,
  type ChannelEntry,
  type ChannelInput,
  channelWords,
  HOUR_MS,
  isAsCommanded,
  isOpenToAnyone,
} from "@bold-relay/core";
import type { InletHealth } from "../inlets/inlet-health.ts";
import type { InletRegistry } from "../inlets/registry.ts";
import type { Clock } from "../platform/clock.ts";
import type { Board } from "../state/board.ts";
import type { Lockouts } from "../state/lockouts.ts";
import type { PresenceLog } from "../state/presence-log.ts";
import { findGuesses } from "../store/guesses.ts";
import { findInstances } from "../store/instances.ts";
import { findKeys } from "../store/keys.ts";
import type { Pool } from "../store/pool.ts";
import { commandView } from "../views/command-view.ts";

export interface AlertInputDeps {
  readonly clock: Clock;
  readonly pool: Pool;
  readonly board: Board;
  readonly lockouts: Lockouts;
  readonly inlets: InletRegistry;
  readonly presences: PresenceLog;
  /** How they do, at all instances. */
  readonly inletHealth: () => Promise<ReadonlyMap<string, InletHealth>>;
}

export async function alertInput({
  clock,
  pool,
  board,
  lockouts,
  inlets,
  presences,
  inletHealth,
}: AlertInputDeps): Promise<AlertSources> {
  const now = clock.now();
  const [keys, instances, health, guesses] = await Promise.all([
    findKeys(pool),
    findInstances(pool),
    inletHealth(),
    findGuesses(pool, now - HOUR_MS),
  ]);
  return {
    now,
    devices: devicesOf(board, lockouts, presences),
    inlets: inlets.all.map(({ record: { inlet }, handler }) => ({
      slug: inlet.slug,
      name: inlet.name,
      site: inlet.site,
      paused: inlet.paused === true,
      up: health.get(inlet.slug)?.up ?? null,
      trouble: health.get(inlet.slug)?.trouble ?? null,
      notUnderstood: health.get(inlet.slug)?.notUnderstood ?? [],
      circledAt: health.get(inlet.slug)?.circledAt ?? null,
      floodedAt: health.get(inlet.slug)?.floodedAt ?? null,
      lastAt: inlets.counter.lastArrivalOf(inlet.slug) ?? handler.openedAt,
      quietAfterMs: inlet.quietAfterHours === undefined ? null : inlet.quietAfterHours * HOUR_MS,
      isOpenToAnyone: isOpenToAnyone(inlet),
      caughtTwice: inlets.caughtTwice.get(inlet.slug) ?? null,
    })),
    instances,
    guesses,
    keys: keys.map(({ id, name, member, inlet, inletSite, expiresAt }) => {
      return { id, name, holder: member ?? inlet ?? "", expiresAt, site: inletSite };
    }),
  };
}

function* devicesOf(board: Board, lockouts: Lockouts, presences: PresenceLog): Generator<readonly ChannelInput[]> {
  for (const channels of board.snapshot.byDevice.values())
    yield channels.map((channel) => channelInput(channel, board, lockouts, presences));
}

function channelInput(channel: ChannelEntry, board: Board, lockouts: Lockouts, presences: PresenceLog): ChannelInput {
  const { id } = channel;
  const observed = board.observedOf(id);
  const command = board.lastCommandOf(id);
  const bad = command !== null && command.end !== null && command.end !== "delivered";
  return {
    channel,
    online: board.presenceOf(channel.device.address),
    agreement: board.agreementOf(id),
    is: observed ? channelWords(channel, observed.value) : "unknown",
    told: command ? channelWords(channel, command.to) : "nothing",
    observed: observed?.value ?? null,
    observedAt: observed?.at ?? 0,
    pattern: presences.patternOf(channel.device.address),
    age: board.ageOf(channel),
    claimed: claimedOf(channel, board),
    lockedOut: lockouts.of(id) !== null,
    last: bad ? lastOf(command, board) : null,
    concerns: board.concernsOf(id),
  };
}

/** Where the device says otherwise than what sees the channel. */
function claimedOf(channel: ChannelEntry, board: Board): ChannelInput["claimed"] {
  const [claim, seen] = [board.claimOf(channel.id), board.knownOf(channel.id)];
  // The contact of a two-way circuit says nothing of its lamp.
  if (claim === null || seen === null || channel.drive !== "set") return null;
  if (isAsCommanded(channel, seen, claim)) return null;
  return { text: channelWords(channel, claim), since: board.claimedSince(channel.id) ?? 0 };
}

function lastOf(command: NonNullable<ReturnType<Board["lastCommandOf"]>>, board: Board): ChannelInput["last"] {
  const { id, end, reason, verdict } = commandView(command, board);
  return { id, end, reason, at: command.askedAt, headline: verdict.headline, text: verdict.text };
}
