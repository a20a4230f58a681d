/** Deadlines in the journal: when a channel must go off again, whatever happens meanwhile. */
import type { ChannelId, CommandId } from "@bold-relay/core";
import type { DeadlineWhy } from "./accept-rows.ts";
import type { Db } from "./pool.ts";

export interface DeadlineRecord {
  /** The command that switched it on for a time. */
  readonly commandId: CommandId;
  readonly channelId: ChannelId;
  readonly seq: number;
  /** ms since 1970. */
  readonly dueAt: number;
  /** How long it is at most, ms. */
  readonly forMs: number;
  readonly why: DeadlineWhy;
}

export async function findDeadlines(db: Db): Promise<DeadlineRecord[]> {
  const { rows } = await db.query(
    `select command_id as "commandId", channel_id as "channelId", seq, why, for_ms as "forMs",
       extract(epoch from due_at)::float8 * 1000 as "dueAt"
     from deadline order by due_at`,
  );
  return rows;
}

/** For deadlines that have nothing left to do. */
export async function dropDeadlines(db: Db, commandIds: readonly CommandId[]): Promise<void> {
  await db.query("delete from deadline where command_id = any($1::uuid[])", [commandIds]);
}
