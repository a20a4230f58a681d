/** What is known, gathered for whoever looks for what needs attention. */
import { type AttentionSight, agrees, type ChannelEntry, type ChannelSight, channelWords } from "@bold-relay/core";
import type { Clock } from "../clock.ts";
import type { InletHouse } from "../inlets/house.ts";
import type { Board } from "../pipeline/board.ts";
import type { Lockouts } from "../pipeline/lockouts.ts";
import type { PresenceLog } from "../pipeline/presence-log.ts";
import { findKeys } from "../store/keys.ts";
import type { Pool } from "../store/pool.ts";
import { commandView } from "../view/command-view.ts";

export interface SightParts {
  readonly clock: Clock;
  readonly pool: Pool;
  readonly board: Board;
  readonly lockouts: Lockouts;
  readonly house: InletHouse;
  readonly presences: PresenceLog;
}

const HOUR_MS = 3_600_000;

export async function attentionSight({
  clock,
  pool,
  board,
  lockouts,
  house,
  presences,
}: SightParts): Promise<AttentionSight> {
  const now = clock.now();
  const keys = await findKeys(pool);
  return {
    now,
    channels: board.snapshot.channels.map((channel) => channelSight(channel, board, lockouts, presences)),
    inlets: house.all.map(({ record: { inlet }, reception, own }) => ({
      slug: inlet.slug,
      name: inlet.name,
      site: inlet.site,
      paused: inlet.paused === true,
      up: own?.health.up ?? null,
      trouble: own?.health.trouble ?? null,
      unmatched: reception.unmatchedSince(now - HOUR_MS),
      circledAt: reception.circledAt,
      floodedAt: reception.floodedAt,
      lastAt: house.counter.lastArrivalOf(inlet.slug) ?? reception.openedAt,
      quietAfterMs: inlet.quietAfterHours === undefined ? null : inlet.quietAfterHours * HOUR_MS,
    })),
    keys: keys.map(({ id, name, member, inlet, inletSite, expiresAt }) => {
      return { id, name, holder: member ?? inlet ?? "", expiresAt, site: inletSite };
    }),
  };
}

function channelSight(channel: ChannelEntry, board: Board, lockouts: Lockouts, presences: PresenceLog): ChannelSight {
  const { id } = channel;
  const observed = board.observedOf(id);
  const command = board.lastCommandOf(id);
  const bad = command !== null && command.end !== null && command.end !== "complete";
  return {
    channel,
    present: board.presenceOf(channel.device.address),
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
function claimedOf(channel: ChannelEntry, board: Board): ChannelSight["claimed"] {
  const [claim, seen] = [board.claimOf(channel.id), board.knownOf(channel.id)];
  // The contact of a two-way circuit says nothing of its lamp.
  if (claim === null || seen === null || channel.drive !== "set") return null;
  if (agrees(seen, claim, channel.policy.tolerance)) return null;
  return { text: channelWords(channel, claim), since: board.claimedSince(channel.id) ?? 0 };
}

function lastOf(command: NonNullable<ReturnType<Board["lastCommandOf"]>>, board: Board): ChannelSight["last"] {
  const { id, end, reason, verdict } = commandView(command, board);
  return { id, end, reason, at: command.askedAt, headline: verdict.headline, text: verdict.text };
}
