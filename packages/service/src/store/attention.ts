/** What people said of matters that need attention. */
import type { Db } from "./pool.ts";

export interface AlertStateRecord {
  readonly kind: string;
  readonly subject: string;
  /** ms since 1970. */
  readonly firstSeen: number;
  readonly takenBy: string | null;
  readonly note: string | null;
  readonly mutedUntil: number | null;
  readonly closedMark: string | null;
}

export type AlertState = Pick<AlertStateRecord, "takenBy" | "note" | "mutedUntil" | "closedMark">;

export async function findAlertStates(db: Db): Promise<AlertStateRecord[]> {
  const { rows } = await db.query<AlertStateRecord>(
    `select kind, subject, extract(epoch from first_seen)::float8 * 1000 as "firstSeen", taken_by as "takenBy", note,
       extract(epoch from muted_until)::float8 * 1000 as "mutedUntil", closed_mark as "closedMark" from attention`,
  );
  return rows;
}

/** Notes which matters there are: new ones get a row, those that are gone lose theirs. */
export async function updateAlertStates(
  db: Db,
  added: readonly { kind: string; subject: string; since: number }[],
  gone: readonly { kind: string; subject: string }[],
): Promise<void> {
  if (added.length > 0) {
    await db.query(
      `insert into attention (kind, subject, first_seen)
       select kind, subject, to_timestamp(since / 1000) from json_to_recordset($1) as a(kind text, subject text, since float8)
       on conflict do nothing`,
      [JSON.stringify(added)],
    );
  }
  if (gone.length === 0) return;
  await db.query(
    `delete from attention using json_to_recordset($1) as g(kind text, subject text)
     where attention.kind = g.kind and attention.subject = g.subject`,
    [JSON.stringify(gone.map(({ kind, subject }) => ({ kind, subject })))],
  );
}

/** @returns whether the matter is still there */
export async function saveAlertState(db: Db, kind: string, subject: string, care: AlertState): Promise<boolean> {
  const { rowCount } = await db.query(
    `update attention set taken_by = $3, note = $4, muted_until = to_timestamp($5::float8 / 1000), closed_mark = $6
     where kind = $1 and subject = $2`,
    [kind, subject, care.takenBy, care.note, care.mutedUntil, care.closedMark],
  );
  return rowCount === 1;
}
