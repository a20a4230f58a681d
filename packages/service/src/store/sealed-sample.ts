/** Something that was sealed in this database, to try a key on. */
import type { Db } from "./pool.ts";

/** @returns null when nothing is sealed */
export async function findSealedSample(db: Db): Promise<Buffer | null> {
  const { rows } = await db.query<{ sealed: Buffer }>(
    `select sealed from (
       select secret as sealed from inlet where secret is not null
       union all select secret from notification where secret is not null
       union all select totp_secret from member where totp_secret is not null) all_sealed limit 1`,
  );
  return rows[0]?.sealed ?? null;
}
