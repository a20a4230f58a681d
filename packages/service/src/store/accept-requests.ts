/** The verb *accept*: requests and their commands become durable, each exactly once, and get their place in the lane. */
import { timestamp } from "../clock.ts";
import type { Pool } from "./pool.ts";

export interface AcceptRow {
  readonly id: string;
  /** ms since 1970. */
  readonly askedAt: number;
  readonly inlet: string;
  readonly asker: string;
  readonly keyId: number | null;
  readonly target: string;
  readonly action: string;
  /** Set where the request ends on arrival. */
  readonly outcome: "refused" | "unmatched" | null;
  readonly refusal: object | null;
  readonly command: { readonly id: string; readonly channelId: number; readonly to: string } | null;
}

export type AcceptResult =
  | { readonly kept: true; readonly seq: number | null }
  /** The key was revoked after it was looked up. */
  | { readonly kept: false };

const ACCEPT = `
with incoming as (
  select * from rows from (json_to_recordset($1) as (
    id uuid, asked_at timestamptz, inlet text, asker text, key_id int, target text, action text,
    outcome text, refusal jsonb, command_id uuid, channel_id int, to_value text
  )) with ordinality as i (
    id, asked_at, inlet, asker, key_id, target, action, outcome, refusal, command_id, channel_id, to_value, place)
), kept as (
  insert into request (id, asked_at, inlet, asker, key_id, target, action, outcome, refusal)
  select id, asked_at, inlet, asker, key_id, target, action, outcome, refusal from incoming i
  where key_id is null or exists (select from api_key k where k.id = i.key_id and k.revoked_at is null)
  on conflict (id) do nothing
  returning id
), opened as (
  insert into open_command (id, request_id, channel_id, to_value, asked_at)
  select i.command_id, i.id, i.channel_id, i.to_value, i.asked_at from incoming i join kept using (id)
  where i.command_id is not null order by i.place
  returning request_id, seq
)
select kept.id, opened.seq from kept left join opened on opened.request_id = kept.id`;

const LOOK_AGAIN = `
select request.id, open_command.seq from request left join open_command on open_command.request_id = request.id
where request.id = any($1::uuid[])`;

export async function acceptRequests(
  pool: Pool,
  rows: readonly AcceptRow[],
  repeated: boolean,
): Promise<AcceptResult[]> {
  const payload = rows.map(({ askedAt, keyId, command, ...row }) => ({
    ...row,
    asked_at: timestamp(askedAt),
    key_id: keyId,
    command_id: command?.id,
    channel_id: command?.channelId,
    to_value: command?.to,
  }));
  const written = await pool.query({ name: "accept", text: ACCEPT, values: [JSON.stringify(payload)] });
  const seqs = new Map<string, number | null>(written.rows.map((row) => [row.id, row.seq]));
  if (repeated && seqs.size < rows.length) {
    // An earlier try may have committed before its connection was lost.
    const found = await pool.query(LOOK_AGAIN, [rows.map((row) => row.id)]);
    for (const row of found.rows) seqs.set(row.id, row.seq);
  }
  return rows.map(({ id }) => (seqs.has(id) ? { kept: true, seq: seqs.get(id) ?? null } : { kept: false }));
}
