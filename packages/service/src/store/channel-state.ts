/**
 * Reads what was last known of every channel: the newest state change, the newest command with its request. A leader reads it before it leads, so
 * it must cost the same for each channel, however much is kept of others.
 *
 * That is why a channel is named by a range of one (`between`), and not by `=`: then only the index by channel has the order that is asked for.
 * With `=` the planner also takes the index by time where it knows that few channels have most rows (a fleet in which most are idle), and reads
 * all of it for each channel that has none.
 */
import { type Cause, type ChannelId, type CommandId, parseValue, READ, type Value } from "@bold-relay/core";
import { COMMAND_COLUMNS, type CommandRecord, commandFromRow } from "./find-requests.ts";
import type { Db } from "./pool.ts";

export interface ObservedRecord {
  readonly channelId: ChannelId;
  readonly value: Value;
  readonly cause: Cause;
  readonly commandId: CommandId | null;
  readonly at: number;
  /** What it was before that change. */
  readonly before: Value | null;
  /** When a hand last changed it, ms since 1970. */
  readonly handAt: number | null;
}

/** @param channels of these, here and below; null: of all */
export async function findObserved(db: Db, channels: readonly ChannelId[] | null): Promise<ObservedRecord[]> {
  const { rows } = await db.query(
    `
    select c.id as "channelId", s.to_value as value, s.cause, s.command_id as "commandId", s.from_value as before,
      extract(epoch from s.at)::float8 * 1000 as at, extract(epoch from hand.at)::float8 * 1000 as "handAt"
    from channel c
      cross join lateral (
        select * from state_change where channel_id between c.id and c.id order by channel_id, id desc limit 1) s
      left join lateral (
        select at from state_change where channel_id between c.id and c.id and cause = 'hand'
        order by channel_id, id desc limit 1) hand on true
    where c.removed_at is null and ($1::int[] is null or c.id = any($1))`,
    [channels],
  );
  return rows.map((row) => ({
    ...row,
    value: parseValue(row.value),
    before: row.before === null ? null : parseValue(row.before),
  }));
}

/** By channel the newest command that reached its target stage. */
export async function findTaken(
  db: Db,
  channels: readonly ChannelId[] | null,
): Promise<{ channelId: ChannelId; seq: number; value: Value; at: number }[]> {
  const { rows } = await db.query(
    `
    select ch.id as "channelId", c.seq, c.to_value as value, extract(epoch from c.asked_at)::float8 * 1000 as at
    from channel ch cross join lateral (
      select * from command where channel_id between ch.id and ch.id and ended = 'delivered' and to_value <> '${READ}'
      order by channel_id, request_id desc limit 1) c
    where ch.removed_at is null and ($1::int[] is null or ch.id = any($1))`,
    [channels],
  );
  return rows.map((row) => ({ ...row, value: parseValue(row.value) }));
}

/** The newest ended command of every channel; open ones are read apart. */
export async function findLastCommands(db: Db, channels: readonly ChannelId[] | null): Promise<CommandRecord[]> {
  const { rows } = await db.query(
    `
    select ${COMMAND_COLUMNS}
    from channel ch cross join lateral (
      select * from command where channel_id between ch.id and ch.id and to_value <> '${READ}'
      order by channel_id, request_id desc limit 1) c
      join request r on r.id = c.request_id
    where ch.removed_at is null and ($1::int[] is null or ch.id = any($1))`,
    [channels],
  );
  return rows.map(commandFromRow);
}
