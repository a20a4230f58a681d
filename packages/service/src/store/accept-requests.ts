/** The verb *accept*: requests and their commands become durable, each exactly once, and get their place in the lane. */
import { acceptOne, isPlain } from "./accept-one.ts";
import type { AcceptResult, AcceptRow, CommandRow } from "./accept-rows.ts";
import { type KnownWords, keepWords } from "./asked-words.ts";
import type { Pool } from "./pool.ts";
import { formOf, rowSource } from "./row-source.ts";

/** Moments go as ms since 1970: writing and reading dates as text would cost both sides more than the row. */
const REQUEST = {
  id: "uuid",
  asked_ms: "float8",
  requester: "text",
  member_id: "int",
  inlet: "text",
  asker: "text",
  key_id: "int",
  session: "text",
  target: "text",
  action: "text",
  value: "float8",
  value_text: "text",
  for_ms: "int",
  outcome: "text",
  refusal: "jsonb",
  site: "text",
  said: "jsonb",
  traceparent: "text",
  idem_asker: "text",
  idem_key: "text",
  body_sha256: "text",
} as const;

const COMMAND = {
  id: "uuid",
  request_id: "uuid",
  channel_id: "int",
  to_value: "text",
  asked_ms: "float8",
  urgent: "boolean",
  for_ms: "int",
  clear_within_ms: "int",
  doom: "text",
  due_ms: "float8",
  lasts_ms: "int",
  why: "text",
} as const;

const CLAIM = `claimed as (
  insert into idempotency (asker, key, body_sha256, request_id)
  select idem_asker, idem_key, body_sha256, id from incoming where idem_key is not null order by place
  on conflict do nothing
  returning request_id
), `;

/** A group may hold several channels: each of them. */
const STILL_PERMITTED = `and (member_id is null or (may_still_request(member_id, decode(session, 'base64'), null) and not exists (
      select from ordered o where o.request_id = incoming.id
        and not may_still_request(incoming.member_id, decode(incoming.session, 'base64'), o.channel_id))))`;

/** Put together of what a group needs: most have neither keys of their callers' own nor deadlines. */
function statementOf(rows: readonly AcceptRow[], words: ReturnType<KnownWords["newIn"]>, epochs: readonly number[]) {
  const values: unknown[] = [];
  const value = (one: unknown) => `$${values.push(one)}`;
  const commands = rows.flatMap((row) => row.commands.map((command) => commandRecord(command, row)));
  const keys = [...new Set(rows.map(({ keyId }) => keyId))].filter((id) => id !== null);
  const carriedOut = rows.flatMap(({ deadlineOf }) => deadlineOf ?? []);
  const repeatable = rows.some(({ idempotency }) => idempotency !== null);
  const ofMembers = rows.some(({ memberId }) => memberId !== null);
  const timed = carriedOut.length > 0 || commands.some(({ due_ms }) => due_ms !== undefined);
  const text = `
with held as materialized (
  select hold_leases(${value(epochs)}::bigint[])
), incoming as (
  select i.* from ${rowSource("i", REQUEST, rows.map(requestRecord), value)}, held
), ordered as (
  select * from ${rowSource("o", COMMAND, commands, value)}
), ${repeatable ? CLAIM : ""}kept as (
  insert into request (id, asked_at, requester, member_id, inlet, asker, key_id, target, action, value, value_text, for_ms, outcome, refusal,
    site, said, traceparent)
  select id, to_timestamp(asked_ms / 1000), requester, member_id, inlet, asker, key_id, target, action, value, value_text, for_ms, outcome, refusal,
    site, said, traceparent from incoming
  where (key_id is null or key_id in (select k.id from api_key k where k.id = any(${value(keys)}::int[])
      and k.revoked_at is null and (k.expires_at is null or k.expires_at > now())))
    ${ofMembers ? STILL_PERMITTED : ""}
    ${repeatable ? "and (idem_key is null or id in (select request_id from claimed))" : ""}
  on conflict (id) do nothing
  returning id
), opened as (
  insert into open_command (id, request_id, channel_id, to_value, asked_at, urgent, for_ms, clear_within_ms, doom)
  select o.id, o.request_id, channel_id, to_value, to_timestamp(asked_ms / 1000), urgent, for_ms, clear_within_ms, doom
  from ordered o join kept on kept.id = o.request_id order by o.place
  returning id, request_id, seq
)${timed ? deadlineSteps(value(carriedOut)) : ""}${words.length > 0 ? `, worded as (${keepWords(words, value)})` : ""}
select kept.id, opened.id as command, opened.seq from kept left join opened on opened.request_id = kept.id`;
  const parts = [
    formOf(rows),
    formOf(commands),
    ...(repeatable ? ["repeatable"] : []),
    ...(ofMembers ? ["of members"] : []),
    ...(timed ? ["timed"] : []),
  ];
  if (words.length > 0) parts.push(`words of ${formOf(words)}`);
  return { name: `accept ${parts.join(" ")}`, text, values };
}

/** Deadlines that begin, and those that are carried out. */
function deadlineSteps(carriedOut: string): string {
  return `, begun as (
  insert into deadline (command_id, channel_id, seq, due_at, for_ms, why)
  select o.id, o.channel_id, opened.seq, to_timestamp(o.due_ms / 1000), o.lasts_ms, o.why
  from ordered o join opened using (id) where o.due_ms is not null
), carried_out as (
  delete from deadline where command_id = any(${carriedOut}::uuid[])
)`;
}

const LOOK_AGAIN = `
select request.id, open_command.id as command, open_command.seq
from request left join open_command on open_command.request_id = request.id
where request.id = any($1::uuid[])`;

interface Found {
  readonly id: string;
  readonly command: string | null;
  readonly seq: number | null;
}

/**
 * @param known what of their words is kept already
 * @param epochs prove that this instance holds the lanes; without all of them nothing is kept, see `isLeaseLost`
 */
export async function acceptRequests(
  pool: Pool,
  rows: readonly AcceptRow[],
  repeated: boolean,
  known: KnownWords,
  epochs: readonly number[],
): Promise<AcceptResult[]> {
  const words = known.newIn(rows);
  const [first] = rows;
  // What may be in the journal already, or says what this hour has not heard, takes the long way.
  if (first && rows.length === 1 && !repeated && words.length === 0 && isPlain(first))
    return [await acceptOne(pool, first, epochs[0] as number)];
  const written = await pool.query<Found>(statementOf(rows, words, epochs));
  known.keep(words);
  const kept = new Set<string>();
  const seqs = new Map<string, number>();
  const note = (found: readonly Found[]) => {
    for (const { id, command, seq } of found) {
      kept.add(id);
      if (command !== null && seq !== null) seqs.set(command, seq);
    }
  };
  note(written.rows);
  if (repeated && kept.size < rows.length) {
    // An earlier try may have committed before its connection was lost.
    note((await pool.query<Found>(LOOK_AGAIN, [rows.map((row) => row.id)])).rows);
  }
  const originals = await findOriginals(
    pool,
    rows.filter((row) => row.idempotency && !kept.has(row.id)),
  );
  return rows.map((row) => {
    // A repeated commit finds no open command only if its lane had it already, which this process would know.
    if (kept.has(row.id)) return { kept: true, seqs: row.commands.map(({ id }) => seqs.get(id) ?? 0) };
    const original = originals.get(idempotencyName(row));
    if (!original) return { kept: false, original: null };
    return { kept: false, original: original.requestId, sameBody: original.bodySha256 === row.idempotency?.bodySha256 };
  });
}

function requestRecord(row: AcceptRow) {
  const { id, requester, inlet, asker, target, action, value, outcome, refusal, site, said, traceparent, idempotency } =
    row;
  return {
    id,
    asked_ms: row.askedAt,
    requester,
    member_id: row.memberId,
    inlet,
    asker,
    key_id: row.keyId,
    session: row.session,
    target,
    action,
    value: typeof value === "number" ? value : null,
    value_text: typeof value === "string" ? value : null,
    for_ms: row.forMs,
    outcome,
    refusal,
    site,
    said,
    traceparent,
    idem_asker: idempotency?.asker,
    idem_key: idempotency?.key,
    body_sha256: idempotency?.bodySha256,
  };
}

function commandRecord(command: CommandRow, row: AcceptRow) {
  return {
    id: command.id,
    request_id: row.id,
    channel_id: command.channelId,
    to_value: command.to,
    asked_ms: row.askedAt,
    urgent: command.urgent,
    for_ms: command.forMs,
    clear_within_ms: command.clearWithinMs,
    doom: command.blocked,
    lasts_ms: command.deadline?.forMs,
    due_ms: command.deadline?.dueAt,
    why: command.deadline?.why,
  };
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
