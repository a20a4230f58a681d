/** The verb *settle*: what was learnt about open commands and channels becomes durable, in one statement. */
import { type Command, type Hop, type Value, valueText } from "@bold-relay/core";
import type { Pool } from "./pool.ts";
import { formOf, type Placeholder, rowSource } from "./row-source.ts";
import { settleOne } from "./settle-one.ts";
import { storableJson } from "./storable.ts";

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

/** Moments go as ms since 1970: writing and reading dates as text would cost both sides more than the row. */
const ENDED = {
  id: "uuid",
  request_id: "uuid",
  channel_id: "int",
  seq: "bigint",
  to_value: "text",
  target_stage: "text",
  stage: "text",
  ended: "text",
  reason: "text",
  attempts: "int",
  asked_ms: "float8",
  hops: "jsonb",
  urgent: "boolean",
  for_ms: "int",
} as const;

const CHANGE = {
  id: "uuid",
  channel_id: "int",
  at_ms: "float8",
  from_value: "text",
  to_value: "text",
  cause: "text",
  command_id: "uuid",
} as const;

/** What one statement does, beside proving that the lease is held. */
interface Step {
  /** Part of the statement's name: the same steps are the same prepared statement. */
  readonly name: string;
  readonly sql: (value: Placeholder) => string;
}

function keepEnds(ended: readonly Command[]): Step {
  return {
    name: `ends_of_${formOf(ended)}`,
    sql: (
      value,
    ) => `insert into command (id, request_id, channel_id, seq, to_value, target_stage, stage, ended, reason, attempts,
    asked_at, hops, urgent, for_ms)
  select id, request_id, channel_id, seq, to_value, target_stage, stage, ended, reason, least(attempts, 32767),
    to_timestamp(asked_ms / 1000), hops, urgent, for_ms
  from ${rowSource("e", ENDED, ended.map(historyRecord), value)}, held
  on conflict do nothing`,
  };
}

/**
 * Open commands are found by `= any`, which is a look-up for each: joined with rows of unknown number the planner would read
 * the whole table, dead rows and all.
 */
function closeOpen(ended: readonly Command[]): Step {
  return {
    name: "closed",
    sql: (value) => `delete from open_command using held where id = any(${value(ended.map(({ id }) => id))}::uuid[])`,
  };
}

function keepProgress(open: readonly Command[]): Step {
  return {
    name: "progress",
    sql(value) {
      const progress = Object.fromEntries(open.map((command) => [command.id, progressRecord(command)]));
      return `update open_command set progress = ${value(storableJson(progress))}::jsonb -> id::text from held
  where id = any(${value(open.map(({ id }) => id))}::uuid[])`;
    },
  };
}

function keepChanges(changes: readonly StateChangeRow[]): Step {
  return {
    name: `changes_of_${formOf(changes)}`,
    sql: (value) => `insert into state_change (id, channel_id, at, from_value, to_value, cause, command_id)
  select id, channel_id, to_timestamp(at_ms / 1000), from_value, to_value, cause, command_id
  from ${rowSource("c", CHANGE, changes.map(changeRecord), value)}, held
  on conflict (id) do nothing`,
  };
}

/**
 * Of several rows about one command only the last counts: each holds the whole story so far.
 *
 * @param epochs prove that this instance holds the lanes; without all of them nothing is kept, see `isLeaseLost`
 */
export async function settleCommands(pool: Pool, rows: readonly SettleRow[], epochs: readonly number[]): Promise<void> {
  const commands = new Map<string, Command>();
  const changes: StateChangeRow[] = [];
  for (const row of rows) {
    if ("command" in row) commands.set(row.command.id, row.command);
    else changes.push(row.change);
  }
  const ended: Command[] = [];
  const open: Command[] = [];
  for (const command of commands.values()) (command.end === null ? open : ended).push(command);
  const [only] = ended;
  if (only && ended.length === 1 && open.length === 0 && changes.length === 0)
    return settleOne(pool, only, epochs[0] as number);
  const steps: Step[] = [];
  if (ended.length > 0) steps.push(keepEnds(ended), closeOpen(ended));
  if (open.length > 0) steps.push(keepProgress(open));
  if (changes.length > 0) steps.push(keepChanges(changes));
  await pool.query(statementOf(steps, epochs));
}

function statementOf(steps: readonly Step[], epochs: readonly number[]) {
  const values: unknown[] = [epochs];
  const value = (one: unknown) => `$${values.push(one)}`;
  const parts = steps.map(({ name, sql }) => `${name} as (${sql(value)})`);
  const text = `with held as materialized (select hold_leases($1::bigint[])), ${parts.join(", ")} select from held`;
  return { name: `settle ${steps.map(({ name }) => name).join(" ")}`, text, values };
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
    target_stage: command.policy.targetStage,
    stage: command.stage,
    ended: command.end,
    reason: command.reason,
    attempts: command.attempts,
    asked_ms: command.askedAt,
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
    at_ms: change.at,
    from_value: change.from === null ? null : valueText(change.from),
    to_value: valueText(change.to),
    cause: change.cause,
    command_id: change.commandId,
  };
}
