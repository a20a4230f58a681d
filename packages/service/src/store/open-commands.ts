/** Reads back every command that had no end when the service stopped. */
import type { ChannelId, CommandId, RequestId, Value } from "@bold-relay/core";
import type { Db } from "./pool.ts";
import type { ProgressRecord } from "./settle-commands.ts";

export interface OpenCommandRecord {
  readonly id: CommandId;
  readonly requestId: RequestId;
  readonly channelId: ChannelId;
  readonly seq: number;
  readonly to: Value;
  /** ms since 1970. */
  readonly askedAt: number;
  readonly progress: ProgressRecord | null;
  readonly inlet: string;
  readonly asker: string;
  readonly target: string;
  readonly action: string;
}

export async function findOpenCommands(db: Db): Promise<OpenCommandRecord[]> {
  const { rows } = await db.query(`
    select o.id, o.request_id as "requestId", o.channel_id as "channelId", o.seq, o.to_value as "to", o.progress,
      extract(epoch from o.asked_at)::float8 * 1000 as "askedAt", r.inlet, r.asker, r.target, r.action
    from open_command o join request r on r.id = o.request_id
    order by o.seq`);
  return rows;
}
