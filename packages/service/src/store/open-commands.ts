/** Reads back every command that had no end when the service stopped. */
import {
  type BlockReason,
  type ChannelId,
  type CommandId,
  parseValue,
  type RequesterKind,
  type RequestId,
  type Said,
  type Value,
} from "@bold-relay/core";
import type { Db } from "./pool.ts";
import type { ProgressRecord } from "./settle-commands.ts";

export interface OpenCommandRecord {
  readonly id: CommandId;
  readonly requestId: RequestId;
  readonly channelId: ChannelId;
  readonly seq: number;
  readonly to: Value;
  readonly urgent: boolean;
  readonly forMs: number | null;
  readonly clearWithinMs: number | null;
  /** It is refused already: only its end is missing. */
  readonly blocked: BlockReason | null;
  /** ms since 1970. */
  readonly askedAt: number;
  readonly progress: ProgressRecord | null;
  readonly requester: RequesterKind;
  readonly memberId: number | null;
  readonly inlet: string;
  readonly asker: string;
  readonly target: string;
  readonly action: string;
  /** As it was asked, of the whole request. */
  readonly value: number | string | null;
  readonly askedForMs: number | null;
  readonly said: Said | null;
  readonly traceparent: string | null;
}

export async function findOpenCommands(db: Db): Promise<OpenCommandRecord[]> {
  const { rows } = await db.query(`
    select o.id, o.request_id as "requestId", o.channel_id as "channelId", o.seq, o.to_value as "to", o.progress,
      o.urgent, o.for_ms as "forMs", o.clear_within_ms as "clearWithinMs", o.doom as blocked, coalesce(to_jsonb(r.value_text), to_jsonb(r.value)) as value, r.for_ms as "askedForMs",
      extract(epoch from o.asked_at)::float8 * 1000 as "askedAt", r.requester, r.member_id as "memberId", r.inlet, r.asker, r.target, r.action, r.said, r.traceparent
    from open_command o join request r on r.id = o.request_id
    order by o.seq`);
  return rows.map((row) => ({ ...row, to: parseValue(row.to) }));
}
