/** Reads what was last known of every channel: the newest state change, the newest command with its request. */
import type { Cause, ChannelId, CommandId, Value } from "@bold-relay/core";
import { COMMAND_COLUMNS, type CommandRecord } from "./find-requests.ts";
import type { Db } from "./pool.ts";

export interface ObservedRecord {
  readonly channelId: ChannelId;
  readonly value: Value;
  readonly cause: Cause;
  readonly commandId: CommandId | null;
  readonly at: number;
}

export async function findObserved(db: Db): Promise<ObservedRecord[]> {
  const { rows } = await db.query(`
    select c.id as "channelId", s.to_value as value, s.cause, s.command_id as "commandId",
      extract(epoch from s.at)::float8 * 1000 as at
    from channel c cross join lateral (
      select * from state_change where channel_id = c.id order by id desc limit 1) s
    where c.removed_at is null`);
  return rows;
}

/** The newest ended command of every channel; open ones are read apart. */
export async function findLastCommands(db: Db): Promise<CommandRecord[]> {
  const { rows } = await db.query(`
    select ${COMMAND_COLUMNS}
    from channel ch cross join lateral (
      select * from command where channel_id = ch.id order by request_id desc limit 1) c
      join request r on r.id = c.request_id
    where ch.removed_at is null`);
  return rows;
}
