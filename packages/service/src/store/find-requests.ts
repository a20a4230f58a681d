/** Reads requests and their ended commands back from the journal. */
import {
  type ChannelId,
  type CommandId,
  type End,
  type Hop,
  type Outcome,
  parseValue,
  type Reason,
  type RequesterKind,
  type RequestId,
  type Said,
  type Stage,
  type TargetStage,
  type Value,
} from "@bold-relay/core";
import type { Db } from "./pool.ts";

export interface RequestRecord {
  readonly id: RequestId;
  /** ms since 1970. */
  readonly askedAt: number;
  readonly requester: RequesterKind;
  /** Of a member; else null. */
  readonly memberId: number | null;
  readonly inlet: string;
  readonly asker: string;
  readonly target: string;
  readonly action: string;
  /** The number that came with the action, as it was asked: what it became stands in the command. */
  readonly value: number | string | null;
  readonly forMs: number | null;
  /** What the arrival said that it was made of, and how that was read; null where it came as it is. */
  readonly said: Said | null;
  /** The caller's place in a trace of its own (W3C Trace Context); null: it brought none. */
  readonly traceparent: string | null;
  /** Set where the request ended on arrival. */
  readonly outcome: Extract<Outcome, "refused" | "not-understood"> | null;
  readonly refusal: { code: string; facts: Record<string, string | number | string[]> } | null;
  /** The slug of the site that one which ended on arrival belongs to; null: of none, or its commands say it. */
  readonly site: string | null;
}

/** A command with who asked for it; ended, or as far as it got. */
export interface CommandRecord {
  readonly id: CommandId;
  readonly requestId: RequestId;
  readonly channelId: ChannelId;
  readonly seq: number;
  readonly to: Value;
  readonly urgent: boolean;
  /** For how long it was asked, ms; null: for good. */
  readonly forMs: number | null;
  readonly targetStage: TargetStage;
  readonly stage: Stage;
  readonly end: End | null;
  readonly reason: Reason | null;
  readonly attempts: number;
  /** ms since 1970. */
  readonly askedAt: number;
  readonly hops: readonly Hop[];
  readonly requester: RequesterKind;
  readonly inlet: string;
  readonly asker: string;
}

/** Of `command c` joined with its `request r`. */
export const COMMAND_COLUMNS = `
  c.id, c.request_id as "requestId", c.channel_id as "channelId", c.seq, c.to_value as "to", c.urgent, c.for_ms as "forMs", c.target_stage as "targetStage", c.stage,
  c.ended as "end", c.reason, c.attempts, extract(epoch from c.asked_at)::float8 * 1000 as "askedAt", c.hops,
  r.requester, r.inlet, r.asker`;

/** Of `request r`. */
export const REQUEST_COLUMNS = `
  r.id, extract(epoch from r.asked_at)::float8 * 1000 as "askedAt", r.requester, r.member_id as "memberId", r.inlet, r.asker, r.target, r.action,
  coalesce(to_jsonb(r.value_text), to_jsonb(r.value)) as value, r.for_ms as "forMs", r.said, r.traceparent, r.outcome, r.refusal, r.site`;

export async function findRequests(db: Db, ids: readonly string[]): Promise<RequestRecord[]> {
  const { rows } = await db.query(`select ${REQUEST_COLUMNS} from request r where r.id = any($1::uuid[])`, [ids]);
  return rows;
}

/** The journal keeps values as text. */
export function commandFromRow(row: CommandRecord & { readonly to: string }): CommandRecord {
  return { ...row, to: parseValue(row.to) };
}

/** The ended commands of these requests. */
export async function findCommands(db: Db, requestIds: readonly string[]): Promise<CommandRecord[]> {
  const { rows } = await db.query(
    `select ${COMMAND_COLUMNS} from command c join request r on r.id = c.request_id
     where c.request_id = any($1::uuid[]) order by c.seq`,
    [requestIds],
  );
  return rows.map(commandFromRow);
}

export interface DayStatistics {
  readonly requests: number;
  readonly delivered: number;
  readonly notDelivered: number;
  readonly refused: number;
}

/** The statistics of what was asked within a minute, of one site. */
export interface MinuteStatistics extends DayStatistics {
  /** Slug; null: of what belongs to none. */
  readonly site: string | null;
  /** Since 1970. */
  readonly minute: number;
}

/**
 * How requests have ended since then, by the site that they belong to and the minute in which they were asked.
 *
 * @param since the smallest id of the moment: UUIDv7 ids begin with their time, so both counts are range scans of an index
 * @param sites the only ones that count, by slug; null: all, with what belongs to none
 */
export async function countByMinute(
  db: Db,
  since: string,
  sites: readonly string[] | null,
): Promise<MinuteStatistics[]> {
  const placed =
    "select ch.id as channel_id, s.slug as site from channel ch join device d on d.id = ch.device_id join site s on s.id = d.site_id";
  const ofChannels =
    sites === null ? "" : `and channel_id in (select channel_id from (${placed}) of where site = any($2))`;
  const ofSites = sites === null ? "" : "and site = any($2)";
  const { rows } = await db.query<MinuteStatistics>(
    `with told as (
       select request_id, channel_id, asked_at, ended from command where request_id >= $1 ${ofChannels}
       union all
       select request_id, channel_id, asked_at, null from open_command where request_id >= $1 ${ofChannels}
     )
     select site, ${minuteOf("asked_at")} as minute, count(distinct request_id)::float8 as requests, 0 as refused,
       (count(*) filter (where ended = 'delivered'))::float8 as delivered, (count(*) filter (where ended <> 'delivered'))::float8 as "notDelivered"
     from told left join (${placed}) placed using (channel_id) group by 1, 2
     union all
     select site, ${minuteOf("asked_at")}, count(*)::float8, count(*)::float8, 0, 0
     from request where id >= $1 and outcome is not null ${ofSites} group by 1, 2`,
    sites === null ? [since] : [since, sites],
  );
  return rows;
}

function minuteOf(moment: string): string {
  return `floor(extract(epoch from ${moment}) / 60)::float8`;
}
