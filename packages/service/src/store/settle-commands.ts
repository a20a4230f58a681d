/** The verb *settle*: what was learnt about open commands and channels becomes durable, in one statement. */
import { type Command, type Hop, type Value, valueText } from "@bold-relay/core";
import { timestamp } from "../clock.ts";
import type { Pool } from "./pool.ts";

interface StateChangeRow {
  readonly id: string;
  readonly channelId: number;
  readonly at: number;
  readonly from: Value | null;
  readonly to: Value;
  readonly cause: string;
  readonly commandId: string | null;
}

/** A command as it is now (ended or not), or a change of a channel's state. */
export type SettleRow = { readonly command: Command } | { readonly change: StateChangeRow };

/** What is kept of an open command beside its order. */
export interface ProgressRecord {
  readonly stage: Command["stage"];
  readonly publishedAt: number | null;
  readonly acknowledgedAt: number | null;
  readonly confirmedAt: number | null;
  readonly attempts: number;
  readonly held: boolean;
  readonly sending: Command["sending"];
  readonly watchedFrom: number | null;
  readonly contradiction: Command["contradiction"];
  readonly hops: readonly Hop[];
}

const SETTLE = `
with held as materialized (
  select hold_lease($4)
), ended as (
  select * from json_to_recordset($1) as e(
    id uuid, request_id uuid, channel_id int, seq bigint, to_value text, aim text, stage text, ended text, reason text,
    attempts int, asked_at timestamptz, hops jsonb, urgent boolean, for_ms int), held
), kept as (
  insert into command (id, request_id, channel_id, seq, to_value, aim, stage, ended, reason, attempts, asked_at, hops,
    urgent, for_ms)
  select id, request_id, channel_id, seq, to_value, aim, stage, ended, reason, least(attempts, 32767), asked_at, hops,
    urgent, for_ms
  from ended
  on conflict do nothing
), closed as (
  delete from open_command using ended where open_command.id = ended.id
), moved as (
  update open_command set progress = p.progress
  from json_to_recordset($2) as p(id uuid, progress jsonb), held where open_command.id = p.id
)
insert into state_change (id, channel_id, at, from_value, to_value, cause, command_id)
select id, channel_id, at, from_value, to_value, cause, command_id from json_to_recordset($3) as s(
  id uuid, channel_id int, at timestamptz, from_value text, to_value text, cause text, command_id uuid), held
on conflict (id) do nothing`;

/**
 * Of several rows about one command only the last counts: each holds the whole story so far.
 *
 * @param epoch proves that this instance holds the lanes; without it nothing is kept, see `isLeaseLost`
 */
export async function settleCommands(pool: Pool, rows: readonly SettleRow[], epoch: number): Promise<void> {
  const commands = new Map<string, Command>();
  const changes: object[] = [];
  for (const row of rows) {
    if ("command" in row) commands.set(row.command.id, row.command);
    else changes.push(changeRecord(row.change));
  }
  const ended: object[] = [];
  const open: object[] = [];
  for (const command of commands.values()) {
    if (command.end !== null) ended.push(historyRecord(command));
    else open.push({ id: command.id, progress: progressRecord(command) });
  }
  await pool.query({
    name: "settle",
    text: SETTLE,
    values: [JSON.stringify(ended), JSON.stringify(open), JSON.stringify(changes), epoch],
  });
}

function historyRecord(command: Command) {
  return {
    id: command.id,
    request_id: command.requestId,
    channel_id: command.channel,
    seq: command.seq,
    to_value: valueText(command.to),
    urgent: command.urgent,
    for_ms: command.forMs,
    aim: command.policy.aim,
    stage: command.stage,
    ended: command.end,
    reason: command.reason,
    attempts: command.attempts,
    asked_at: timestamp(command.askedAt),
    hops: command.hops,
  };
}

function progressRecord(command: Command): ProgressRecord {
  const { stage, publishedAt, acknowledgedAt, confirmedAt, watchedFrom, attempts, held, sending, contradiction } =
    command;
  const times = { publishedAt, acknowledgedAt, confirmedAt, watchedFrom };
  return { stage, ...times, attempts, held, sending, contradiction, hops: command.hops };
}

function changeRecord(change: StateChangeRow) {
  return {
    id: change.id,
    channel_id: change.channelId,
    at: timestamp(change.at),
    from_value: change.from === null ? null : valueText(change.from),
    to_value: valueText(change.to),
    cause: change.cause,
    command_id: change.commandId,
  };
}
