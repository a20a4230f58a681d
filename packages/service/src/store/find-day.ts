/** What happened to one channel since a moment: its changes and its commands, each an index scan. */
import { type Cause, type ChannelId, parseValue, type Value } from "@bold-relay/core";
import { COMMAND_COLUMNS, type CommandRecord, commandFromRow } from "./find-requests.ts";
import type { Db } from "./pool.ts";

/** Of each kind at most this many, the newest. */
const MOST = 500;

export interface ChangeRecord {
  /** ms since 1970. */
  readonly at: number;
  readonly from: Value | null;
  readonly to: Value;
  readonly cause: Cause;
}

/** @param since the smallest UUIDv7 of the moment. Oldest first. */
async function findChanges(db: Db, channel: ChannelId, since: string): Promise<ChangeRecord[]> {
  const { rows } = await db.query(
    `select extract(epoch from at)::float8 * 1000 as at, from_value, to_value, cause
     from state_change where channel_id = $1 and id >= $2 order by id desc limit $3`,
    [channel, since, MOST],
  );
  return rows.reverse().map(({ at, from_value, to_value, cause }) => ({
    at,
    cause,
    from: from_value === null ? null : parseValue(from_value),
    to: parseValue(to_value),
  }));
}

/** @param since the smallest UUIDv7 of the moment. Ended ones, oldest first. */
async function findChannelCommands(db: Db, channel: ChannelId, since: string): Promise<CommandRecord[]> {
  const { rows } = await db.query(
    `select ${COMMAND_COLUMNS} from command c join request r on r.id = c.request_id
     where c.channel_id = $1 and c.request_id >= $2 order by c.request_id desc limit $3`,
    [channel, since, MOST],
  );
  return rows.reverse().map(commandFromRow);
}

export async function findChangesAndCommands(db: Db, channel: ChannelId, since: string) {
  const [changes, commands] = await Promise.all([
    findChanges(db, channel, since),
    findChannelCommands(db, channel, since),
  ]);
  return { changes, commands };
}
