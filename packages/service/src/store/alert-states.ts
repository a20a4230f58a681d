/** What people did about alerts. */
import type { Db } from "./pool.ts";
import { storableJson } from "./storable.ts";

export interface AlertStateRecord {
  readonly kind: string;
  readonly subject: string;
  /** ms since 1970. */
  readonly firstSeen: number;
  readonly assignedTo: string | null;
  readonly note: string | null;
  readonly snoozedUntil: number | null;
  readonly resolvedMark: string | null;
}

export type AlertState = Pick<AlertStateRecord, "assignedTo" | "note" | "snoozedUntil" | "resolvedMark">;

export async function findAlertStates(db: Db): Promise<AlertStateRecord[]> {
  const { rows } = await db.query<AlertStateRecord>(
    `select kind, subject, extract(epoch from first_seen)::float8 * 1000 as "firstSeen", assigned_to as "assignedTo", note,
       extract(epoch from snoozed_until)::float8 * 1000 as "snoozedUntil", resolved_mark as "resolvedMark" from alert_state`,
  );
  return rows;
}

/** Notes which alerts there are: new ones get a row, those that are gone lose theirs. */
export async function updateAlertStates(
  db: Db,
  added: readonly { kind: string; subject: string; since: number }[],
  gone: readonly { kind: string; subject: string }[],
): Promise<void> {
  if (added.length > 0) {
    await db.query(
      `insert into alert_state (kind, subject, first_seen)
       select kind, subject, to_timestamp(since / 1000) from json_to_recordset($1) as a(kind text, subject text, since float8)
       on conflict do nothing`,
      [storableJson(added)],
    );
  }
  if (gone.length === 0) return;
  await db.query(
    `delete from alert_state using json_to_recordset($1) as g(kind text, subject text)
     where alert_state.kind = g.kind and alert_state.subject = g.subject`,
    [storableJson(gone.map(({ kind, subject }) => ({ kind, subject })))],
  );
}

/** @returns whether the alert is still there */
export async function saveAlertState(db: Db, kind: string, subject: string, state: AlertState): Promise<boolean> {
  const { rowCount } = await db.query(
    `update alert_state set assigned_to = $3, note = $4, snoozed_until = to_timestamp($5::float8 / 1000), resolved_mark = $6
     where kind = $1 and subject = $2`,
    [kind, subject, state.assignedTo, state.note, state.snoozedUntil, state.resolvedMark],
  );
  return rowCount === 1;
}
