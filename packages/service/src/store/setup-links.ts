/** One-time links by which an installation without an owner gets its first one. */
import type { Db } from "./pool.ts";

/** Adds one. Earlier ones stay: each instance prints its own at its start. */
export async function saveSetupLink(db: Db, tokenSha256: Buffer, livesMs: number): Promise<void> {
  await db.query("delete from setup_link where expires_at < now()");
  await db.query(
    "insert into setup_link (token_sha256, expires_at) values ($1, now() + $2 * interval '1 millisecond')",
    [tokenSha256, livesMs],
  );
}

/** Whether a link is valid. */
export async function isSetupLink(db: Db, tokenSha256: Buffer): Promise<boolean> {
  const { rowCount } = await db.query("select from setup_link where token_sha256 = $1 and expires_at > now()", [
    tokenSha256,
  ]);
  return rowCount === 1;
}

/**
 * Uses a link up, and all others with it. In the transaction that adds the owner: of two that use links at once, the second waits
 * and then finds none.
 *
 * @returns false when the link is not valid
 */
export async function useSetupLink(db: Db, tokenSha256: Buffer): Promise<boolean> {
  await db.query("lock table setup_link in exclusive mode");
  if (!(await isSetupLink(db, tokenSha256))) return false;
  await db.query("delete from setup_link");
  return true;
}
