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

/** The slug of the site of a request that is open; null: it is not. */
export async function findSiteOfOpen(db: Db, request: string): Promise<string | null> {
  const { rows } = await db.query<{ slug: string }>(
    `select s.slug from open_command o join channel c on c.id = o.channel_id join device d on d.id = c.device_id
       join site s on s.id = d.site_id
     where o.request_id = $1 limit 1`,
    [request],
  );
  return rows[0]?.slug ?? null;
}

/** Which of these requests are open. */
export async function findOpenAmong(db: Db, requests: readonly string[]): Promise<string[]> {
  const { rows } = await db.query<{ id: string }>(
    "select distinct request_id as id from open_command where request_id = any($1::uuid[])",
    [requests],
  );
  return rows.map(({ id }) => id);
}

/** The requests that are open. @param channels for one of these; null: for any */
export async function findOpenIds(db: Db, channels: readonly number[] | null): Promise<string[]> {
  const { rows } = await db.query<{ id: string }>(
    "select distinct request_id as id from open_command where $1::int[] is null or channel_id = any($1::int[])",
    [channels],
  );
  return rows.map(({ id }) => id);
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
