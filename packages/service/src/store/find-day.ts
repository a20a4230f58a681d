/** What happened to one channel since a moment: its changes and its commands, each an index scan. */
import {
  type Cause,
  type ChannelId,
  type CommandId,
  type End,
  parseValue,
  type RequestId,
  type Value,
} from "@bold-relay/core";
import { COMMAND_COLUMNS, type CommandRecord, commandFromRow } from "./find-requests.ts";
import type { Db } from "./pool.ts";

/** Of each kind at most this many, the newest. */
export const MOST_OF_DAY = 5_000;

export interface ChangeRecord {
  /** ms since 1970. */
  readonly at: number;
  readonly from: Value | null;
  readonly to: Value;
  readonly cause: Cause;
}

/** A command without what became of it on the way. */
export interface DayCommand {
  readonly id: CommandId;
  readonly requestId: RequestId;
  /** ms since 1970. */
  readonly at: number;
  readonly to: Value;
  readonly end: End | null;
}

/** @param since the smallest UUIDv7 of the moment. Both oldest first; commands that are open are not among them. */
export async function findChangesAndCommands(db: Db, channel: ChannelId, since: string) {
  const [changes, commands] = await Promise.all([findChanges(db, channel, since), findDayCommands(db, channel, since)]);
  return { changes, commands };
}

async function findChanges(db: Db, channel: ChannelId, since: string): Promise<ChangeRecord[]> {
  const { rows } = await db.query(
    `select extract(epoch from at)::float8 * 1000 as at, from_value, to_value, cause
     from state_change where channel_id = $1 and id >= $2 order by id desc limit $3`,
    [channel, since, MOST_OF_DAY],
  );
  return rows.reverse().map(({ at, from_value, to_value, cause }) => ({
    at,
    cause,
    from: from_value === null ? null : parseValue(from_value),
    to: parseValue(to_value),
  }));
}

async function findDayCommands(db: Db, channel: ChannelId, since: string): Promise<DayCommand[]> {
  const { rows } = await db.query(
    `select id, request_id as "requestId", extract(epoch from asked_at)::float8 * 1000 as at, to_value as "to", ended as "end"
     from command where channel_id = $1 and request_id >= $2 order by request_id desc limit $3`,
    [channel, since, MOST_OF_DAY],
  );
  return rows.reverse().map((row) => ({ ...row, to: parseValue(row.to) }));
}

/** All that is known of these commands of a channel, in no order. */
export async function findChannelCommands(
  db: Db,
  channel: ChannelId,
  commands: readonly DayCommand[],
): Promise<CommandRecord[]> {
  const { rows } = await db.query(
    `select ${COMMAND_COLUMNS} from command c join request r on r.id = c.request_id
     where c.channel_id = $1 and c.request_id = any($2::uuid[])`,
    [channel, commands.map(({ requestId }) => requestId)],
  );
  return rows.map(commandFromRow);
}
