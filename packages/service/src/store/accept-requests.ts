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
  /** What makes a repeated call the same call; null when the asker sent no key. */
  readonly idempotency: { readonly asker: string; readonly key: string; readonly bodySha256: string } | null;
  readonly command: { readonly id: string; readonly channelId: number; readonly to: string } | null;
}

export type AcceptResult =
  | { readonly kept: true; readonly seq: number | null }
  /** The asker's key was revoked after it was looked up. */
  | { readonly kept: false; readonly original: null }
  /** The same call was made before: this is its request, and whether its body was the same. */
  | { readonly kept: false; readonly original: string; readonly sameBody: boolean };

const ACCEPT = `
with incoming as (
  select * from rows from (json_to_recordset($1) as (
    id uuid, asked_at timestamptz, inlet text, asker text, key_id int, target text, action text,
    outcome text, refusal jsonb, command_id uuid, channel_id int, to_value text,
    idem_asker text, idem_key text, body_sha256 text
  )) with ordinality as i (
    id, asked_at, inlet, asker, key_id, target, action, outcome, refusal, command_id, channel_id, to_value,
    idem_asker, idem_key, body_sha256, place)
), claimed as (
  insert into idempotency (asker, key, body_sha256, request_id)
  select idem_asker, idem_key, body_sha256, id from incoming where idem_key is not null order by place
  on conflict do nothing
  returning request_id
), kept as (
  insert into request (id, asked_at, inlet, asker, key_id, target, action, outcome, refusal)
  select id, asked_at, inlet, asker, key_id, target, action, outcome, refusal from incoming i
  where (key_id is null or exists (select from api_key k where k.id = i.key_id and k.revoked_at is null))
    and (idem_key is null or exists (select from claimed where claimed.request_id = i.id))
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
  const payload = rows.map(({ askedAt, keyId, command, idempotency, ...row }) => ({
    ...row,
    asked_at: timestamp(askedAt),
    key_id: keyId,
    command_id: command?.id,
    channel_id: command?.channelId,
    to_value: command?.to,
    idem_asker: idempotency?.asker,
    idem_key: idempotency?.key,
    body_sha256: idempotency?.bodySha256,
  }));
  const written = await pool.query({ name: "accept", text: ACCEPT, values: [JSON.stringify(payload)] });
  const seqs = new Map<string, number | null>(written.rows.map((row) => [row.id, row.seq]));
  if (repeated && seqs.size < rows.length) {
    // An earlier try may have committed before its connection was lost.
    const found = await pool.query(LOOK_AGAIN, [rows.map((row) => row.id)]);
    for (const row of found.rows) seqs.set(row.id, row.seq);
  }
  const originals = await findOriginals(
    pool,
    rows.filter((row) => row.idempotency && !seqs.has(row.id)),
  );
  return rows.map((row) => {
    if (seqs.has(row.id)) return { kept: true, seq: seqs.get(row.id) ?? null };
    const original = originals.get(idempotencyName(row));
    if (!original) return { kept: false, original: null };
    return { kept: false, original: original.requestId, sameBody: original.bodySha256 === row.idempotency?.bodySha256 };
  });
}

interface Original {
  readonly asker: string;
  readonly key: string;
  readonly requestId: string;
  readonly bodySha256: string;
}

/** The requests that earlier calls with these keys have made. */
async function findOriginals(pool: Pool, rows: readonly AcceptRow[]): Promise<Map<string, Original>> {
  if (rows.length === 0) return new Map();
  const found = await pool.query<Original>(
    `select i.asker, i.key, i.request_id as "requestId", i.body_sha256 as "bodySha256"
     from idempotency i join unnest($1::text[], $2::text[]) as wanted (asker, key) using (asker, key)`,
    [rows.map((row) => row.idempotency?.asker), rows.map((row) => row.idempotency?.key)],
  );
  return new Map(found.rows.map((one) => [nameOf(one), one]));
}

function idempotencyName({ idempotency }: AcceptRow): string {
  return idempotency ? nameOf(idempotency) : "";
}

function nameOf({ asker, key }: { asker: string; key: string }): string {
  return JSON.stringify([asker, key]);
}

/** How long a repeated call is known, at least. */
const REMEMBERED = "24 hours";

/** Forgets calls that are older than they need to be known. */
export async function forgetOldCalls(pool: Pool): Promise<void> {
  await pool.query(`delete from idempotency where at < now() - interval '${REMEMBERED}'`);
}
