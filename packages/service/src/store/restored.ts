/** Whether the database was restored from a backup and nobody has led a shard on it since. */
import type { Db } from "./pool.ts";

/** Noted by `restore`, in the database that it restored. */
export async function noteRestored(db: Db): Promise<void> {
  await db.query("update installation set restored_at = now()");
}

/**
 * Before anybody leads: whoever takes a shard first ends what is open in it.
 *
 * @param asked somebody says that it was restored; of a shard that is led that cannot be
 */
export async function spreadRestored(db: Db, asked: boolean): Promise<void> {
  await db.query(
    `with noted as (update installation set restored_at = null where restored_at is not null returning 1)
     update lease set restored = true where exists (select from noted) or ($1 and until < now())`,
    [asked],
  );
}

/** What was open in the shard has ended: the next lead is an ordinary one. */
export async function clearRestored(db: Db, epoch: number): Promise<void> {
  await db.query("update lease set restored = false where epoch = $1", [epoch]);
}
