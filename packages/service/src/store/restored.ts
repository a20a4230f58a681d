/** Whether the database was restored from a backup and nobody has started on it since. */
import type { Db } from "./pool.ts";

/** Noted by `restore`, in the database that it restored. */
export async function noteRestored(db: Db): Promise<void> {
  await db.query("update installation set restored_at = now()");
}

export async function wasRestored(db: Db): Promise<boolean> {
  const { rows } = await db.query<{ restored: boolean }>(
    "select restored_at is not null as restored from installation",
  );
  return rows[0]?.restored ?? false;
}

/** What was open has ended: the next start is an ordinary one. */
export async function clearRestored(db: Db): Promise<void> {
  await db.query("update installation set restored_at = null where restored_at is not null");
}
